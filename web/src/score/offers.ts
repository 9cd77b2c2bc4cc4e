/** Notes that were heard in a span and are offered; what the teacher put right of them; which of them a key is for. */
import { create } from "zustand";
import type { Schemas } from "@/api/client";
import type { Selection } from "./cursor";
import { useCursor } from "./cursor";
import type { Place } from "./hand";

export type Offer = Schemas["OfferView"];
export type Hints = Schemas["Hints"];
export type Mend = Schemas["Mend"];

export const COMPANIES = ["not said", "alone", "with a band"] as const;
export const companyWords = (company: Hints["company"]): string =>
  company === "not said" ? "alone or band: not said" : company;

export const NO_HINTS: Hints = {
  texture: "not said",
  company: "not said",
  side: "both",
  lowest: null,
  highest: null,
  more: 0,
  half_step_down: false,
  quick: false,
};

export type Listening = {
  readonly span: Selection | null; // that was asked for last
  readonly hints: Hints;
  readonly hinted: boolean; // they were chosen since something was listened to last
  readonly estimate: Schemas["Estimate"] | null; // while a worker listens
  readonly found: Schemas["OffersView"] | null;
  readonly mends: readonly Mend[];
  readonly message: string;
  readonly ahead: boolean; // listen ahead of the cursor while one writes
};

export const useOffers = create<Listening>(() => ({
  span: null,
  hints: NO_HINTS,
  hinted: false,
  estimate: null,
  found: null,
  mends: [],
  message: "",
  ahead: false,
}));
export const offersNow = useOffers.getState;
export const setOffers = (change: Partial<Listening>): void => useOffers.setState(change);
export const forgetOffers = (): void => useOffers.setState(useOffers.getInitialState());

const NONE: readonly Offer[] = [];
export const offersOf = ({ found }: Listening): readonly Offer[] => found?.offers ?? NONE;

/** The offer that a key is for: the first that begins at the cursor or behind it, on the cursor's string if several do. */
export const offerAt = (offers: readonly Offer[], tick: number, string: number): Offer | null => {
  const first = offers.find((offer) => offer.note.tick >= tick);
  if (first === undefined) return null;
  return offers.find((offer) => offer.note.tick === first.note.tick && offer.note.string === string) ?? first;
};

export const offerInHand = (): Offer | null => {
  const { cursor } = useCursor.getState();
  return offerAt(offersOf(offersNow()), cursor.tick, cursor.string);
};
export const useOfferInHand = (): Offer | null => {
  const offers = useOffers(offersOf);
  const cursor = useCursor((state) => state.cursor);
  return offerAt(offers, cursor.tick, cursor.string);
};

/** The sure offer that a place written at a tick agrees with: its pitch, within `near` ticks. */
export const agreeing = (offers: readonly Offer[], place: Place, tick: number, near: number): Offer | null =>
  offers.find(
    (offer) =>
      offer.band === "sure" &&
      offer.blocked === "" &&
      Math.abs(offer.note.tick - tick) < near &&
      offer.places.some(({ string, fret }) => string === place.string && fret === place.fret),
  ) ?? null;

/** What is put right of an offer, over what was put right of it before. */
export const mendedBy = (mends: readonly Mend[], change: Pick<Mend, "number"> & Partial<Mend>): readonly Mend[] => {
  const before = mends.find(({ number }) => number === change.number);
  return [
    ...mends.filter(({ number }) => number !== change.number),
    { midi: null, moving: null, at: null, ...before, ...change },
  ];
};
