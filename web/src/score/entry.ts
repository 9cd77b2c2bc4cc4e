/** What the next key writes: length, position of the hand, and the latches that hold for one note. */
import { create } from "zustand";
import { openDocument, stringCount } from "./document";
import type { Hand, Place } from "./hand";

export type Latches = {
  readonly join: boolean;
  readonly stay: boolean;
  readonly open: boolean;
  readonly reach: boolean;
  readonly move: boolean;
};
export type Entry = {
  readonly length: number; // index in the table of lengths
  readonly dot: boolean;
  readonly triplet: boolean;
  readonly tuplet: number; // notes in the time of four; 0 for none
  readonly position: number;
  readonly slide: number;
  readonly recent: readonly Place[];
  readonly latches: Latches;
};

const NO_LATCH: Latches = { join: false, stay: false, open: false, reach: false, move: false };
const EIGHTH = 3; // index of the length that a page starts with

export const useEntry = create<Entry>(() => ({
  length: EIGHTH,
  dot: false,
  triplet: false,
  tuplet: 0,
  position: 5,
  slide: 0,
  recent: [],
  latches: NO_LATCH,
}));
export const entryNow = useEntry.getState;
export const setEntry = (entry: Partial<Omit<Entry, "latches">>): void => useEntry.setState(entry);
export const setLatch = (name: keyof Latches, on?: boolean): void =>
  useEntry.setState(({ latches }) => ({ latches: { ...latches, [name]: on ?? !latches[name] } }));
export const clearLatches = (): void =>
  useEntry.setState(({ latches }) => ({ latches: { ...NO_LATCH, move: latches.move } }));

export const ticksNow = (): number => {
  const entry = entryNow();
  const length = openDocument().bench?.tables.lengths[entry.length];
  if (length === undefined) return 1;
  const tuplet = length.tuplets.find((one) => one.count === entry.tuplet);
  if (tuplet !== undefined) return tuplet.ticks;
  return entry.triplet ? length.triplet : entry.dot ? length.dotted : length.ticks;
};

export const handNow = (mirrored: boolean): Hand => {
  const { position, slide } = entryNow();
  return { position, strings: stringCount(), slide, mirrored };
};
