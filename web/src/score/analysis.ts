/** What is read of the open solo: phrases with their readings, paths between notes, feel; and what is in hand of it. */
import { create } from "zustand";
import type { Schemas } from "@/api/client";

export type PhraseRead = Schemas["PhraseAnalysis"];
export type Reading = Schemas["ReadingView"];
export type Path = Schemas["PathView"];
/** What the middle of the panel shows. */
export type Tab = "readings" | "strong beats" | "motifs" | "feel";

export type Analysing = {
  readonly read: Schemas["AnalysisView"] | null;
  readonly tab: Tab;
  readonly chosen: string | null; // the key of the reading that lies on the neck
  readonly marked: PhraseRead | null; // what is selected, read like a phrase
  readonly why: Schemas["WhyView"] | null; // of the note at the cursor
  readonly telling: boolean; // the teacher's own words are being typed
  readonly guides: boolean; // the next chord's third and seventh on the neck
  readonly message: string;
};

export const useAnalysing = create<Analysing>(() => ({
  read: null,
  tab: "readings",
  chosen: null,
  marked: null,
  why: null,
  telling: false,
  guides: false,
  message: "",
}));
export const analysingNow = useAnalysing.getState;
export const setAnalysing = (change: Partial<Analysing>): void => useAnalysing.setState(change);
export const forgetAnalysing = (): void => useAnalysing.setState(useAnalysing.getInitialState());

/** What the panel tells of: what is marked, else the phrase at the cursor. */
export const inView = ({ read, marked }: Analysing, tick: number): PhraseRead | null => marked ?? phraseAt(read, tick);

/** The phrase that holds a tick, else the last that begins before it, else the first. */
export const phraseAt = (read: Analysing["read"], tick: number): PhraseRead | null => {
  const phrases = read?.phrases ?? [];
  return (
    phrases.find((one) => one.start <= tick && tick < one.end) ??
    [...phrases].reverse().find((one) => one.start <= tick) ??
    phrases[0] ??
    null
  );
};

/** The reading in hand: the one chosen, else the first that is picked, else the first. */
export const readingInHand = (phrase: PhraseRead | null, chosen: string | null): Reading | null =>
  phrase?.readings.find((one) => one.key === chosen) ??
  phrase?.readings.find((one) => one.picked) ??
  phrase?.readings[0] ??
  null;
