import { type ReactNode, useState } from "react";
import { perform } from "@/score/commands";
import { nextNote, noteInHand, notesInHand, useCursor, useNoteInHand } from "@/score/cursor";
import { openDocument, useDocument } from "@/score/document";
import { join } from "@/score/edits";
import { answerQuestion } from "@/score/phrases";
import { bendTo } from "@/score/shaping";
import { setEntry, useEntry } from "@/score/entry";
import { capOf } from "@/score/hand";
import { codeOf, keysOf } from "@/score/keymap";
import { useLook } from "@/score/look";
import { hint, useSaving } from "@/score/saving";
import { act } from "@/score/sending";
import type { Note, Question } from "@/score/types";
import { Key } from "@/ui/parts";
import { useNarrow } from "@/ui/useNarrow";
import { drawn } from "@/ui/signs";
import { NOTES, type NotesCommand } from "./commands";
import { type Named, PhraseDialog } from "@/score/PhraseDialog";
import { shapeInHand } from "./writing";

const BAR = "mt-[2px] flex flex-wrap items-center gap-x-1 text-[14px]";
const SMALL = "rounded-[4px] px-[5px] hover:bg-paper";

/** One sentence that says what the note at the cursor is, and, where there is room, every key as a button. */
export function Panel({ bars }: { bars: boolean }) {
  const open = useDocument((state) => state.bench !== null);
  if (!open) return null;
  return (
    <section aria-label="The note in hand" className="min-w-0">
      <WhatWasDone />
      <WhatItIs />
      {bars && <NoteBars />}
      <QuestionsOfNote />
    </section>
  );
}

/** Every key of the note in hand as a button. */
export function NoteBars() {
  return (
    <>
      <ShapeBar />
      <LengthBar />
      <HandBar />
    </>
  );
}

function CommandButton({ name, on, children }: { name: NotesCommand; on?: boolean; children?: ReactNode }) {
  const keys = keysOf(useLook());
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={() => perform(NOTES[name])}
      className={`flex items-center gap-[3px] rounded-[4px] px-[3px] py-[1px] max-sm:min-h-11 max-sm:px-2 max-sm:text-[16px] ${on ? "bg-pick text-paper" : "hover:bg-paper"}`}
    >
      <span className="max-sm:hidden">
        <Key>
          <span className={on ? "text-pick" : undefined}>{capOf(codeOf(NOTES[name], keys))}</span>
        </Key>
      </span>
      {children ?? name}
    </button>
  );
}

/** For screen readers: the last act, and the latches that hold. */
function WhatWasDone() {
  const last = useDocument((state) => state.bench?.history.undo);
  const latches = useEntry((state) => state.latches);
  const held = (["join", "stay", "open", "reach", "move"] as const).filter((name) => latches[name]);
  return (
    <p role="status" aria-label="What was done" className="sr-only">
      {[last, ...held.map((name) => `${name} is on`)].filter(Boolean).join("; ")}
    </p>
  );
}

function WhatItIs() {
  const note = useNoteInHand();
  const view = useDocument((state) => state.views[note?.id ?? ""]);
  const marked = useCursor((state) => state.selection) === null ? 0 : notesInHand().length;
  const numbers = useLook((look) => look.numbers);
  const narrow = useNarrow();
  const says =
    note === null ? "Nothing is written here." : view === undefined ? "Written; its label is on the way." : view.says;
  const more =
    marked > 1
      ? `${marked} notes are marked: a key or the menu changes all of them.`
      : note !== null
        ? drawn(view?.more ?? "")
        : narrow
          ? "Tap a note to read it."
          : numbers
            ? "A home-row key chooses the string, digits the fret; a second digit joins the first."
            : "A key of the hand block writes a note here; its place is on the neck at the right.";
  return (
    // As high whatever is said, so that no key moves the strip above.
    <div className="mb-1 sm:h-[72px] sm:overflow-hidden">
      <p
        role="status"
        aria-live="polite"
        aria-label="Sentence"
        className="line-clamp-2 font-naming text-[20px] font-semibold leading-[25px]"
      >
        <Sentence says={says} />
      </p>
      <p className="line-clamp-2 text-[15px] leading-[20px] text-ink-2" title={view?.more}>
        {more}
      </p>
    </div>
  );
}

/** The part after the colon leans: it is what the note is, not where it lies. */
export function Sentence({ says }: { says: string }) {
  const colon = says.indexOf(": ");
  if (colon < 0) return <>{drawn(says)}</>;
  return (
    <>
      {drawn(says.slice(0, colon + 2))}
      <em>{drawn(says.slice(colon + 2))}</em>
    </>
  );
}

function ShapeBar() {
  const sizes = useDocument((state) => state.bench?.tables.bend_sizes);
  const unsure = (useNoteInHand()?.sure ?? "sure") !== "sure";
  return (
    <div role="toolbar" aria-label="Shape the note" className="flex flex-wrap gap-x-1 text-[14px]">
      <CommandButton name="bend" />
      {sizes?.map((size) => (
        <button
          key={size.quarters}
          type="button"
          aria-label={`Bend ${size.size}`}
          className="rounded-[4px] px-[6px] font-bold text-ink-2 hover:bg-paper"
          onClick={() => shapeInHand((one, tables) => bendTo(one, size.quarters, tables))}
        >
          {size.size}
        </button>
      ))}
      <CommandButton name="release" />
      <CommandButton name="vibrato" />
      <CommandButton name="slide" />
      <CommandButton name="dead" />
      <CommandButton name="where else" />
      <CommandButton name="unsure" on={unsure} />
    </div>
  );
}

const MOVES = [
  ["left", "←"],
  ["right", "→"],
  ["up", "fret +"],
  ["down", "fret −"],
] as const;

function LengthBar() {
  const lengths = useDocument((state) => state.bench?.tables.lengths);
  const { length, dot, triplet, latches } = useEntry();
  return (
    <div role="toolbar" aria-label="What is written next" className={BAR}>
      <span aria-label="Length" className="min-w-[52px] text-[16px] font-bold">
        {lengths?.[length]?.short}
        {dot ? "." : ""}
        {triplet ? " triplet" : ""}
      </span>
      <CommandButton name="shorter" />
      <CommandButton name="longer" />
      <CommandButton name="dot" on={dot} />
      <CommandButton name="triplet" on={triplet} />
      <CommandButton name="rest" />
      {(["join", "stay", "open", "reach", "move"] as const).map((name) => (
        <CommandButton key={name} name={name} on={latches[name]} />
      ))}
      {latches.move && (
        <span className="flex gap-1">
          {MOVES.map(([name, sign]) => (
            <button
              key={name}
              type="button"
              aria-label={`Move ${name}`}
              className="rounded-[4px] bg-paper px-2 font-bold"
              onClick={() => perform(NOTES[name])}
            >
              {sign}
            </button>
          ))}
        </span>
      )}
    </div>
  );
}

function HandBar() {
  const strings = useDocument((state) => state.bench?.tables.strings.length ?? 6);
  const history = useDocument((state) => state.bench?.history);
  const phrase = useDocument((state) => state.elements.phrases)[useCursor((state) => state.phrase) ?? ""];
  const selection = useCursor((state) => state.selection);
  useSaving((state) => state.sending); // an undo waits for what is under way
  const [naming, setNaming] = useState<Named | null>(null);
  const joinBack = () => {
    const note = noteInHand();
    if (note === null) hint("No note is selected to join.");
    else act(join(openDocument().elements, note));
  };
  return (
    <div role="toolbar" aria-label="Hand and history" className={BAR}>
      <Position />
      <CommandButton name="hand down">down</CommandButton>
      <CommandButton name="hand up">up</CommandButton>
      <CommandButton name="hand here">there</CommandButton>
      {strings > 6 && <CommandButton name="block" />}
      <button type="button" aria-label="Note before" className={`${SMALL} font-bold`} onClick={() => nextNote(-1)}>
        ‹
      </button>
      <span aria-hidden>note</span>
      <button type="button" aria-label="Note after" className={`${SMALL} font-bold`} onClick={() => nextNote(1)}>
        ›
      </button>
      {selection === null && (
        <button type="button" className={SMALL} onClick={joinBack}>
          join back
        </button>
      )}
      <CommandButton name="delete" />
      {selection !== null && (
        <button
          type="button"
          className="rounded-[4px] bg-pick px-2 font-bold text-paper"
          onClick={() => setNaming(selection)}
        >
          new phrase …
        </button>
      )}
      {selection !== null && (
        <button type="button" className={`${SMALL} font-bold`} onClick={() => perform(NOTES["other changes"])}>
          other changes …
        </button>
      )}
      {phrase !== undefined && (
        <button type="button" className={`${SMALL} font-bold`} onClick={() => setNaming({ phrase: phrase.id })}>
          name phrase …
        </button>
      )}
      <HistoryButton name="undo" word="Undo" last={history?.undo} />
      <HistoryButton name="redo" word="Redo" last={history?.redo} />
      {naming !== null && <PhraseDialog what={naming} onClose={() => setNaming(null)} />}
    </div>
  );
}

function HistoryButton({ name, word, last }: { name: "undo" | "redo"; word: string; last: string | null | undefined }) {
  const keys = keysOf(useLook());
  return (
    <button
      type="button"
      disabled={NOTES[name].blocked?.() != null}
      aria-label={word}
      className="rounded-[4px] px-[5px] enabled:hover:bg-paper"
      onClick={() => perform(NOTES[name])}
      title={last ?? undefined}
    >
      <Key>{capOf(codeOf(NOTES[name], keys))}</Key> {name}
    </button>
  );
}

function Position() {
  const frets = useDocument((state) => state.bench?.tables.frets ?? 22);
  const position = useEntry((state) => state.position);
  const highest = frets - 3;
  const change = (text: string) => {
    if (text !== "") setEntry({ position: Math.min(highest, Math.max(0, Math.round(Number(text)))) });
  };
  return (
    <label>
      hand{" "}
      <input
        type="number"
        aria-label="Position"
        min={0}
        max={highest}
        value={position}
        onChange={(event) => change(event.target.value)}
        className="w-[46px] rounded-[4px] border border-rule-2 bg-sheet px-1 text-[16px] font-bold"
      />
    </label>
  );
}

function QuestionsOfNote() {
  const note: Note | null = useNoteInHand();
  const all = useDocument((state) => state.elements.questions);
  const questions = note === null ? [] : Object.values(all).filter((one) => one.notes.includes(note.id));
  if (questions.length === 0) return null;
  return (
    <ul className="mt-1 text-[14px]">
      {questions.map((question) => (
        <OneQuestion key={question.id} question={question} />
      ))}
    </ul>
  );
}

function OneQuestion({ question }: { question: Question }) {
  const open = question.answer === null;
  const answer = (words: string | null, shown: string) => (
    <button
      key={shown}
      type="button"
      className="underline underline-offset-2"
      onClick={() => act(answerQuestion(question, words))}
    >
      {shown}
    </button>
  );
  return (
    <li className="flex flex-wrap items-center gap-2">
      <span className="font-bold text-doubt">{question.words}</span>
      {open ? question.answers.map((words) => answer(words, words)) : <span>{question.answer}</span>}
      {open ? answer("settled", "settle it") : answer(null, "open it again")}
    </li>
  );
}
