import { useEffect, useState } from "react";
import { type Schemas, sentence } from "@/api/client";
import { atHand } from "@/score/cursor";
import { openDocument } from "@/score/document";
import { inOrder, newId } from "@/score/elements";
import { LickFigure } from "@/score/LickFigure";
import type { PlanLine, RemarkView } from "@/score/teaching";
import { useDraft } from "@/ui/drafts";
import { InputDialog } from "@/ui/InputDialog";
import { Area, Choose } from "@/ui/parts";
import { putRemark, type RemarkRequest, secondWays } from "./plan";

type On = RemarkRequest["on"];
type Place = { readonly name: string; readonly on: On; readonly from: number; readonly to: number };

/** Where a remark can belong: the phrase, its bars, its notes; the note at the cursor first. */
const placesOf = (from: number, to: number): Place[] => {
  const { bench, elements } = openDocument();
  const places: Place[] = [];
  for (const phrase of Object.values(elements.phrases).sort((a, b) => a.start - b.start))
    if (phrase.start < to && from < phrase.end)
      places.push({
        name: `the phrase “${phrase.name}”`,
        on: { kind: "phrase", phrase: phrase.id },
        from: phrase.start,
        to: phrase.end,
      });
  for (const bar of bench?.strip.bars ?? [])
    if (bar.tick < to && from < bar.end)
      places.push({
        name: bar.number === 0 ? "the pick-up" : `bar ${bar.label}`,
        on: { kind: "bar", bar: bar.number },
        from: bar.tick,
        to: bar.end,
      });
  const { views } = openDocument();
  for (const note of inOrder(elements.notes))
    if (note.tick >= from && note.tick < to)
      places.push({
        name: views[note.id]?.says ?? "a note",
        on: { kind: "note", note: note.id },
        from: note.tick,
        to: note.tick + note.ticks,
      });
  return places;
};
const keyOf = (on: On): string =>
  JSON.stringify([on.kind, "note" in on ? on.note : "phrase" in on ? on.phrase : on.bar]);

type Props = { remark: RemarkView | null; line: Pick<PlanLine, "start" | "end">; onClose: () => void };

/** The teacher's words at a note, a phrase or a bar, and a second way to play it. */
export function RemarkDialog({ remark, line, onClose }: Props) {
  const places = placesOf(line.start, line.end);
  const { picked } = atHand();
  const atNote = places.find(({ on }) => "note" in on && on.note === picked);
  const [on, setOn] = useState(
    remark === null ? keyOf((atNote ?? places[0])?.on ?? { kind: "bar", bar: 1 }) : keyOf(remark.on),
  );
  const [id] = useState(() => remark?.id ?? newId());
  const soloId = openDocument().bench?.solo_id ?? "";
  const draft = useDraft(remark === null ? `remark ${soloId} ${line.start}-${line.end}` : `remark ${remark.id}`, {
    words: remark?.words ?? "",
  });
  const { words } = draft.value;
  const setWords = (text: string) => draft.set({ words: text });
  const [ways, setWays] = useState<readonly Schemas["SecondWayView"][]>([]);
  const [way, setWay] = useState(remark?.second == null ? "none" : "kept");
  const [trouble, setTrouble] = useState<string | null>(null);
  const place = places.find((one) => keyOf(one.on) === on) ?? places[0];
  useEffect(() => {
    if (place === undefined) return;
    let here = true;
    secondWays(place.from, place.to).then(
      (found) => here && setWays(found),
      (fault: unknown) => here && setTrouble(sentence(fault)),
    );
    return () => {
      here = false;
    };
  }, [on]); // eslint-disable-line react-hooks/exhaustive-deps -- asked anew for another place
  const chosen = ways[Number(way)];
  const kept = remark === null ? undefined : openDocument().elements.remarks[remark.id]?.second;
  const submit = async () => {
    if (place === undefined) return "This remark needs a place: choose where it belongs.";
    const second = way === "kept" ? (kept ?? []) : (chosen?.notes ?? []);
    return putRemark({ id, on: place.on, words, second: [...second] });
  };
  const shown = way === "kept" ? remark?.second : chosen?.drawing;
  return (
    <InputDialog
      wide
      title={remark === null ? "A remark" : "The remark"}
      submit="Keep"
      disabled={words.trim() === "" || place === undefined}
      trouble={trouble}
      draft={draft}
      onSubmit={submit}
      onClose={onClose}
    >
      <Choose
        label="Belongs to"
        options={places.map((one) => ({ value: keyOf(one.on), words: one.name }))}
        value={on}
        onChoose={(value) => {
          setOn(value);
          if (way !== "kept") setWay("none");
        }}
      />
      <Area
        label="Words"
        rows={3}
        maxLength={600}
        autoFocus
        placeholder="What to watch, which finger, which stroke; if the bend is too far, slide."
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      <Choose
        label="A second way to play it"
        options={[
          { value: "none", words: "none" },
          ...(remark?.second == null ? [] : [{ value: "kept", words: "as it is" }]),
          ...ways.map((one, i) => ({ value: String(i), words: one.words })),
        ]}
        value={way}
        onChoose={(value) => {
          setWay(value);
          const offered = ways[Number(value)];
          if (offered !== undefined && words.trim() === "") setWords(`Another way: ${offered.words}.`);
        }}
      />
      {shown != null && (
        <div className="overflow-x-auto">
          <LickFigure drawing={shown} width={560} scrolls />
        </div>
      )}
    </InputDialog>
  );
}
