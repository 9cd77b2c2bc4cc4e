/** Choices of the teacher: an anticipation that is overruled, other changes over a span. What follows from them the core says. */
import type { Selection } from "./cursor";
import { type Act, change, type Elements, newId } from "./elements";
import type { Choice, Note, OtherChanges } from "./types";

/** Which chord a note is heard against: as it is found, the one that sounds, or the next. */
export type HeardAgainst = "found" | "here" | "next";
type Anticipation = Extract<Choice, { kind: "anticipation" }>;

const overruled = (choices: Elements["choices"], note: Note): Anticipation | undefined =>
  Object.values(choices).find((one): one is Anticipation => one.kind === "anticipation" && one.note === note.id);

export const heardAgainst = (choices: Elements["choices"], note: Note): HeardAgainst =>
  overruled(choices, note)?.heard ?? "found";

const LABELS = {
  found: "hear a note as found",
  here: "hear a note over the chord here",
  next: "hear a note over the next chord",
} as const;

export const hearAgainst = (choices: Elements["choices"], note: Note, heard: HeardAgainst): Act => {
  const before = overruled(choices, note);
  const id = before?.id ?? newId();
  const after = heard === "found" ? null : { kind: "anticipation", id, note: note.id, heard };
  const changes = before === undefined && after === null ? [] : [change("choice", id, before ?? null, after)];
  return { label: LABELS[heard], changes, picked: note.id };
};

/** Other changes that touch a span, from left to right. */
export const otherChangesIn = (choices: Elements["choices"], { from, to }: Selection): OtherChanges[] =>
  Object.values(choices)
    .filter((one) => one.kind === "changes")
    .filter(({ start, end }) => start < to && end > from)
    .sort((a, b) => a.start - b.start || a.id.localeCompare(b.id));

export const showChanges = (changes: OtherChanges, shown: boolean): Act => ({
  label: shown ? "show other changes first" : "show the chart first",
  changes: [change("choice", changes.id, changes, { ...changes, shown })],
  picked: null,
});

export const takeAway = (changes: OtherChanges): Act => ({
  label: "take other changes away",
  changes: [change("choice", changes.id, changes, null)],
  picked: null,
});
