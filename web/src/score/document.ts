/** The open solo as it is drawn: its elements and views. What is known of it is owned by copy.ts. */
import { create } from "zustand";
import { Grid } from "./axis";
import { type Elements } from "./elements";
import type { Bench, NoteView } from "./types";

export type OpenDocument = {
  readonly bench: Bench | null;
  readonly past: number | null; // the earlier state that is open, to be read only
  readonly elements: Elements;
  readonly views: Readonly<Record<string, NoteView>>;
  readonly unanswered: ReadonlySet<string>; // notes whose label is older than their writing
  readonly grid: Grid;
  readonly versions: Readonly<Record<string, number>>;
};

const NOTHING: Elements = {
  notes: {},
  rests: {},
  stacks: {},
  phrases: {},
  questions: {},
  dynamics: {},
  swells: {},
  choices: {},
  remarks: {},
  plan: {},
};
const NO_GRID = new Grid([
  { tick: 0, second: 0 },
  { tick: 1, second: 1 },
]);

export const useDocument = create<OpenDocument>(() => ({
  bench: null,
  past: null,
  elements: NOTHING,
  views: {},
  unanswered: new Set(),
  grid: NO_GRID,
  versions: {},
}));
export const openDocument = useDocument.getState;

/** First and last tick of the strip. */
export const bounds = ({ bench }: OpenDocument = openDocument()): readonly [number, number] => {
  const bars = bench?.strip.bars ?? [];
  return [bars[0]?.tick ?? 0, bars[bars.length - 1]?.end ?? 0];
};

export const stringCount = (): number => openDocument().bench?.tables.strings.length ?? 6;

/** The phrase that lies at a tick. */
export const phraseAt = (tick: number) =>
  Object.values(openDocument().elements.phrases).find((one) => one.start <= tick && tick < one.end);
