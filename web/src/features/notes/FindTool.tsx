import { useState } from "react";
import { api, type Schemas, take } from "@/api/client";
import { atHand, pick, select, setCursor, useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { hint, useSaving } from "@/score/saving";
import { ticksNow } from "@/score/entry";
import { useLook } from "@/score/look";
import { request } from "@/score/sending";
import { type PlanView, type RemarkView, useTeaching } from "@/score/teaching";
import type { Note, NoteView } from "@/score/types";
import { Button, Field } from "@/ui/parts";
import { copyFigure, type FigureCopy } from "./figures";
import { TabDialog } from "./TabDialog";
import { Select } from "@/ui/Select";

/** Write by pitch or from tablature; copy what is marked elsewhere; find notes by technique, degree or fret. */
export function FindTool() {
  return (
    <div className="grid grid-cols-1 gap-x-6 gap-y-2 text-[14px] lg:grid-cols-[1fr_2.1fr_1fr]">
      <ByPitch />
      <CopyFigure />
      <Find />
    </div>
  );
}

function ByPitch() {
  const hand = useLook((look) => look.handSize);
  const [text, setText] = useState("");
  const [tab, setTab] = useState(false);
  const found = useSaving((state) => state.messages);
  const write = async () => {
    const ticks = ticksNow();
    const words = text.trim().split(/\s+/).length;
    const { tick } = atHand().cursor;
    if (
      await request((solo_id) =>
        take(
          api.POST("/api/solos/{solo_id}/pitches", {
            params: { path: { solo_id } },
            body: { text, tick, ticks, hand },
          }),
        ),
      )
    ) {
      setText("");
      setCursor({ tick: tick + words * ticks });
    }
  };
  return (
    <div>
      <form
        className="flex flex-col gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          void write();
        }}
      >
        <Field
          label="By pitch, at the cursor"
          placeholder="C5 Eb G, or 1 b3 5"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <div className="flex flex-wrap gap-x-3 whitespace-nowrap">
          <Button type="submit" size="narrow" disabled={text.trim() === ""}>
            Write them
          </Button>
          <button type="button" className="px-1 underline" onClick={() => setTab(true)}>
            Tablature as text …
          </button>
        </div>
      </form>
      {found.length > 0 && (
        <p role="status" aria-label="What was written">
          {found.join(" ")}
        </p>
      )}
      {tab && <TabDialog onClose={() => setTab(false)} />}
    </div>
  );
}

type Direction = Schemas["Direction"];
const DIRECTIONS: readonly Direction[] = ["nearest", "up", "down"];
const chip = (name: string, act: () => void) => (
  <button type="button" className="h-7 rounded-[4px] border border-rule-2 bg-sheet px-2 font-bold" onClick={act}>
    {name}
  </button>
);
const small = "h-7 rounded-[4px] border border-rule-2 bg-sheet px-1";

function CopyFigure() {
  const selection = useCursor((state) => state.selection);
  const [frets, setFrets] = useState("5");
  const [strings, setStrings] = useState("1");
  const [key, setKey] = useState("D");
  const [direction, setDirection] = useState<Direction>("nearest");
  const [set, setSet] = useState("1-3");
  const to = (change: Partial<FigureCopy>) => {
    const { cursor } = atHand();
    if (selection !== null)
      void copyFigure({
        start: selection.from,
        end: selection.to,
        to: cursor.tick >= selection.to || cursor.tick < selection.from ? cursor.tick : selection.to,
        ...change,
      });
  };
  const toSet = () => {
    const [first, last] = set.split(/\D+/).map(Number);
    if (first === undefined || !(first > 0)) hint("Write the strings as 1-3, the thinnest first.");
    else to({ string_set: [first, last === undefined || !(last > 0) ? first : last] });
  };
  const number = (label: string, value: string, set: (value: string) => void) => (
    <input
      type="number"
      aria-label={label}
      className={`${small} w-12`}
      value={value}
      onChange={(event) => set(event.target.value)}
    />
  );
  if (selection === null)
    return (
      <p className="text-ink-2">
        Mark a figure with shift and the arrows to write it again at the cursor: as it is, in another key, at another
        fret, on other strings, in triplets, or with its degrees over the chord there.
      </p>
    );
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-[6px]" role="group" aria-label="Write the figure again">
      <span className="font-bold">Again</span>
      {chip("As it is", () => to({}))}
      {chip("To the chord there", () => to({ to_chord: true }))}
      <span className="flex items-center gap-1">
        {chip("To the key", () => to({ key, direction }))}
        <input
          aria-label="Key"
          className={`${small} w-14`}
          value={key}
          onChange={(event) => setKey(event.target.value)}
        />
        <Select
          small
          label="Direction"
          options={DIRECTIONS}
          value={direction}
          onChoose={(value) => setDirection(value as Direction)}
        />
      </span>
      <span className="flex items-center gap-1">
        {chip("By frets", () => to({ frets: Number(frets) }))}
        {number("Frets", frets, setFrets)}
      </span>
      <span className="flex items-center gap-1">
        {chip("By strings", () => to({ strings: Number(strings) }))}
        {number("Strings", strings, setStrings)}
      </span>
      <span className="flex items-center gap-1">
        {chip("Onto strings", toSet)}
        <input
          aria-label="Strings from and to"
          className={`${small} w-12`}
          value={set}
          onChange={(event) => setSet(event.target.value)}
        />
      </span>
      {chip("In triplets", () => to({ pulse: "triplets" }))}
      {chip("Straight", () => to({ pulse: "straight" }))}
      <button type="button" className="underline" onClick={() => select(null)}>
        Clear
      </button>
    </div>
  );
}

/** Remarks that hold some words. */
export const remarksWith = (words: string, plan: PlanView | null): readonly RemarkView[] => {
  const wanted = words.trim().toLowerCase();
  return wanted.length < 2 ? [] : (plan?.remarks.filter((one) => one.words.toLowerCase().includes(wanted)) ?? []);
};

/** Notes that a word names: a technique, a degree as it is shown, or a fret. */
export const found = (words: string, notes: readonly Note[], views: Readonly<Record<string, NoteView>>): Note[] => {
  const wanted = words.trim().toLowerCase().replaceAll("♭", "b").replaceAll("♯", "#");
  if (wanted === "") return [];
  const fret = /^(?:fret )?(\d+)$/.exec(wanted);
  const byName = wanted.startsWith("fret ");
  return notes.filter(
    (note) =>
      (!byName && views[note.id]?.degrees.some((degree) => degree.toLowerCase() === wanted)) ||
      (fret !== null && note.fret === Number(fret[1]) * 100) ||
      (wanted === "unsure" && note.sure !== "sure") ||
      (!byName && views[note.id]?.played.some((technique) => technique.includes(wanted))),
  );
};

function Find() {
  const [words, setWords] = useState("");
  const notes = useDocument((state) => state.elements.notes);
  const views = useDocument((state) => state.views);
  const picked = useCursor((state) => state.picked);
  const plan = useTeaching((state) => state.plan);
  const remarks = remarksWith(words, plan);
  const list = found(
    words,
    Object.values(notes).sort((a, b) => a.tick - b.tick || a.string - b.string),
    views,
  );
  const go = (by: 1 | -1) => {
    const at = list.findIndex((note) => note.id === picked);
    const next = list[(at + by + list.length) % list.length];
    if (next !== undefined) pick(next);
  };
  return (
    <form
      className="flex flex-col gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        go(1);
      }}
    >
      <Field
        label="Find"
        placeholder="bend, b3, fret 12, words of a remark …"
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      <p role="status" aria-label="Found" className="flex items-center gap-2">
        {words.trim() === ""
          ? ""
          : list.length === 0
            ? remarks.length > 0
              ? "No note."
              : "Nothing."
            : `${list.length} note${list.length > 1 ? "s" : ""}${list.some((note) => note.id === picked) ? `, this is ${list.findIndex((note) => note.id === picked) + 1}` : ""}`}
        {list.length > 0 && (
          <>
            <Button size="narrow" aria-label="Found before" onClick={() => go(-1)}>
              ‹
            </Button>
            <Button size="narrow" aria-label="Found next" type="submit">
              ›
            </Button>
          </>
        )}
      </p>
      {remarks.length > 0 && (
        <ul aria-label="Remarks found">
          {remarks.map((one) => (
            <li key={one.id} className="truncate">
              <button
                type="button"
                className="underline underline-offset-2"
                onClick={() => setCursor({ tick: one.tick })}
              >
                {one.place}
              </button>
              : {one.words}
            </li>
          ))}
        </ul>
      )}
    </form>
  );
}
