/** Listening to a span: asked of a worker, looked at until it is done; what it offers, taken and put right. */
import { api, type Schemas, sentence, take } from "@/api/client";
import { isOpen, leave as leaveEstimate, watch } from "@/api/estimates";
import { atHand, pickedNote, type Selection, setCursor, useCursor } from "@/score/cursor";
import { openDocument, phraseAt, useDocument } from "@/score/document";
import type { Place } from "@/score/hand";
import { useLook } from "@/score/look";
import {
  forgetOffers,
  mendedBy,
  type Offer,
  offerInHand,
  offersNow,
  offersOf,
  setOffers,
  useOffers,
} from "@/score/offers";
import { type Player, playingNow } from "@/score/playing";
import { hint } from "@/score/saving";
import { request, settled } from "@/score/sending";
import { openTool, shownNow } from "@/score/shown";

const LOOK_MS = 150;
const SOON_MS = 250; // after a change of the notes the offers are looked at again
const FOUR_SECONDS = 4;

/** What is marked, else the phrase at the cursor, else its bar. */
export const spanToHear = (): Selection | null => {
  const { selection, cursor } = atHand();
  if (selection !== null) return selection;
  const phrase = phraseAt(cursor.tick);
  if (phrase !== undefined) return { from: phrase.start, to: phrase.end };
  const bar = openDocument().bench?.strip.bars.find((one) => cursor.tick < one.end);
  return bar === undefined ? null : { from: bar.tick, to: bar.end };
};

/** From the cursor on. */
export const nextSeconds = (): Selection => {
  const { grid } = openDocument();
  const { tick } = atHand().cursor;
  return { from: tick, to: Math.round(grid.tick(grid.second(tick) + FOUR_SECONDS)) };
};

const asked = () => {
  const { span, hints, mends } = offersNow();
  const { handSize } = useLook.getState();
  return { start: span?.from ?? 0, end: span?.to ?? 0, hints, mends: [...mends], hand: handSize };
};
const path = () => ({ path: { solo_id: openDocument().bench?.solo_id ?? "" } });

// The client widens tuples to arrays; the server sent what its schema says.
const viewOf = (sent: unknown): Schemas["OffersView"] => sent as Schemas["OffersView"];

let turn = 0; // rises with every span that is listened to: an answer that comes later is another's
let endWatching = (): void => undefined;
let soon: ReturnType<typeof setTimeout> | undefined; // until the offers are looked at again

type Asking = {
  readonly kept?: boolean; // with the hints that it was listened to before
  readonly ahead?: boolean; // while one writes: what is offered stays until more is heard, and the cursor where it is
};

/** Listen to a span with the hints that are set. */
export const listen = async (span: Selection, { kept = false, ahead = false }: Asking = {}): Promise<void> => {
  leave();
  const own = (turn += 1);
  if (!ahead) setOffers({ span, found: null, mends: [], message: "" });
  try {
    await settled();
    if (kept && !offersNow().hinted) {
      const query = { start: span.from, end: span.to };
      const before = await take(api.GET("/api/solos/{solo_id}/hints", { params: { ...path(), query } }));
      if (before !== null && own === turn && !offersNow().hinted) setOffers({ hints: before });
    }
    const body = { start: span.from, end: span.to, hints: offersNow().hints };
    const first = await take(api.POST("/api/solos/{solo_id}/listen", { params: path(), body }));
    if (own !== turn) {
      leaveEstimate(first);
      return;
    }
    setOffers({ hinted: false });
    follow(first, span, ahead);
  } catch (fault) {
    if (own === turn) setOffers({ estimate: null, message: sentence(fault) });
  }
};

const follow = (estimate: Schemas["Estimate"], span: Selection, ahead: boolean): void => {
  endWatching = watch(
    estimate,
    LOOK_MS,
    (now) => void heardSoFar(now, span, ahead),
    (fault) => setOffers({ estimate: null, message: sentence(fault) }),
  );
};

/** A page that is opened while a span is heard takes that up, with its hints. */
const takeUp = async (): Promise<void> => {
  const own = turn;
  const jobs = await take(api.GET("/api/solos/{solo_id}/estimates", { params: path() })).catch(() => []);
  const job = jobs.findLast(({ estimate }) => estimate.kind === "notes");
  if (job?.start == null || job.end == null || own !== turn) return;
  const span = { from: job.start, to: job.end };
  setOffers({ span, found: null, mends: [], message: "", ...(job.hints == null ? {} : { hints: job.hints }) });
  openTool("listen");
  follow(job.estimate, span, false);
};

const heardSoFar = async (estimate: Schemas["Estimate"], span: Selection, ahead: boolean): Promise<void> => {
  if (isOpen(estimate)) {
    setOffers({ estimate });
    return;
  }
  setOffers({ estimate: null, message: estimate.trouble });
  if (estimate.state !== "done") return;
  if (ahead) setOffers({ span, mends: [] });
  await lookAgain();
  if (ahead) return;
  const first = offersOf(offersNow())[0];
  if (first !== undefined && shownNow().tool === "listen")
    setCursor({ tick: first.note.tick, string: first.note.string });
};

/** Leave what is being listened to. */
export const leave = (): void => {
  endWatching();
  const { estimate } = offersNow();
  if (estimate === null) return;
  setOffers({ estimate: null, message: "Cancelled." });
  leaveEstimate(estimate);
};

let heardAhead: Selection | null = null; // what was asked for last, so that it is asked for once

/** With the switch on, the bar at the cursor and the next are listened to before they are reached. */
const hearAhead = (): void => {
  const { ahead, estimate, span } = offersNow();
  if (!ahead) heardAhead = null;
  if (!ahead || estimate !== null) return;
  const bars = openDocument().bench?.strip.bars ?? [];
  const at = bars.findIndex((bar) => atHand().cursor.tick < bar.end);
  const here = bars[at];
  if (here === undefined) return;
  const soonHeard = { from: here.tick, to: (bars[at + 1] ?? here).end };
  if (span !== null && span.from <= soonHeard.from && span.to >= soonHeard.to) return;
  if (heardAhead?.from === soonHeard.from && heardAhead.to === soonHeard.to) return;
  heardAhead = soonHeard;
  void listen(soonHeard, { ahead });
};

/** The offers beside what is written now. */
export const lookAgain = async (): Promise<void> => {
  clearTimeout(soon);
  try {
    setOffers({
      found: viewOf(await take(api.POST("/api/solos/{solo_id}/offers", { params: path(), body: asked() }))),
    });
  } catch (fault) {
    setOffers({ found: null, message: sentence(fault) });
  }
};

/** While a solo is open its offers follow what is written and where the cursor is; they end with it. */
export const followWriting = (): (() => void) => {
  const ends = [useCursor.subscribe(hearAhead), useOffers.subscribe(hearAhead)];
  const end = useDocument.subscribe((now, before) => {
    if (now.elements.notes === before.elements.notes || offersNow().found === null) return;
    clearTimeout(soon);
    soon = setTimeout(() => void settled().then(() => (offersNow().found === null ? undefined : lookAgain())), SOON_MS);
  });
  void takeUp();
  return () => {
    turn += 1;
    for (const stop of [end, ...ends]) stop();
    clearTimeout(soon);
    heardAhead = null;
    leave();
    forgetOffers();
  };
};

// -- what keys do to offers -----------------------------------------------------------------------------------------

/** Keys are for an offer while the tool is open, one lies ahead, and no written note is picked. */
export const noOffer = (): string | null => {
  if (offerInHand() !== null) return null;
  const first = offersOf(offersNow())[0];
  if (first === undefined) return "There is no offer. Listen to a span first.";
  const bar = openDocument().bench?.strip.bars.find((one) => first.note.tick < one.end)?.label ?? "";
  return `The cursor is behind the last offer. The first one is in bar ${bar}: click it, or go back to it with ←.`;
};

/** Offers are open, wherever the cursor is: all of them can be taken. */
export const offersOpen = (): boolean =>
  shownNow().stage === "notes" && shownNow().tool === "listen" && offersOf(offersNow()).length > 0;
export const noneOpen = (): string | null =>
  offersOf(offersNow()).length > 0 ? null : "There is no offer. Listen to a span first.";

/** Why nothing can be listened to; null when it can. */
export const noSound = (): string | null =>
  openDocument().bench?.recording?.frames == null
    ? "There is no recording here to listen to. Add one on the shelf."
    : null;
export const offersInHand = (): boolean =>
  shownNow().stage === "notes" && shownNow().tool === "listen" && pickedNote() === null && offerInHand() !== null;

const takeNumbers = async (numbers: readonly number[]): Promise<boolean> =>
  request((solo_id) =>
    take(
      api.POST("/api/solos/{solo_id}/offers/taken", {
        params: { path: { solo_id } },
        body: { ...asked(), numbers: [...new Set(numbers)] },
      }),
    ),
  );

/** Take the offer in hand and go on to the next. */
export const takeOffer = async (): Promise<void> => {
  const offer = offerInHand();
  if (offer === null) return;
  if (offer.blocked !== "") {
    hint(offer.blocked);
    return;
  }
  const next = offersOf(offersNow()).find(({ note }) => note.tick > offer.note.tick);
  if (!(await takeNumbers([offer.number]))) return;
  setCursor(
    next === undefined
      ? { tick: offer.note.tick + offer.note.ticks }
      : { tick: next.note.tick, string: next.note.string },
  );
  await lookAgain();
};

/** Take all that are sure, or all there are. */
export const takeOffers = async (which: "sure" | "all"): Promise<void> => {
  const offers = offersOf(offersNow()).filter(
    ({ band, blocked }) => blocked === "" && (which === "all" || band === "sure"),
  );
  if (offers.length === 0) {
    hint(which === "sure" ? "No offer here is sure." : "There is nothing to take.");
    return;
  }
  if (!(await takeNumbers(offers.map(({ number }) => number)))) return;
  await lookAgain();
  const left = offersOf(offersNow())[0];
  const { span } = offersNow();
  setCursor(
    left === undefined
      ? { tick: span?.to ?? atHand().cursor.tick }
      : { tick: left.note.tick, string: left.note.string },
  );
};

/** Take a sure offer that a key agrees with, at the place of the key. */
export const takeAt = async (offer: Offer, place: Place): Promise<void> => {
  setOffers({ mends: mendedBy(offersNow().mends, { number: offer.number, at: place }) });
  if (!(await takeNumbers([offer.number]))) return;
  setCursor({ tick: offer.note.tick + offer.note.ticks, string: place.string });
  await lookAgain();
};

const mend = (change: Parameters<typeof mendedBy>[1]): void => {
  setOffers({ mends: mendedBy(offersNow().mends, change) });
  void lookAgain();
};
/** The next likely pitch in the place of the one in hand. */
export const otherPitch = (): void => {
  const offer = offerInHand();
  const next = offer?.others[0];
  if (offer === null || next === undefined) return hint("No other pitch is likely here.");
  mend({ number: offer.number, midi: next.midi });
};
/** An octave up; an octave down when it is up already, then back. */
export const otherOctave = (): void => {
  const offer = offerInHand();
  if (offer === null) return;
  const next = offer.octave;
  if (next == null) return hint("No octave of it lies on this neck.");
  mend({ number: offer.number, midi: next.midi });
};
export const slideOrBend = (): void => {
  const offer = offerInHand();
  if (offer?.moving == null) return hint("The pitch of this note does not move.");
  mend({ number: offer.number, moving: offer.moving });
};

/** The moment of the offer, looped; once more: silence. */
export const hearOffer = (player: Player): void => {
  const offer = offerInHand();
  if (offer !== null) player.loopSeconds(offer.second, offer.end_second);
};
let tone: HTMLAudioElement | null = null;
/** A steady tone at the pitch of the offer, to hold against the recording. */
export const toneOfOffer = (): void => {
  const offer = offerInHand();
  if (offer === null || offer.name === "") return hint("A dead note has no pitch.");
  tone?.pause();
  const { bench } = openDocument();
  tone = new Audio(`/api/solos/${bench?.solo_id ?? ""}/tone?${new URLSearchParams({ name: offer.name }).toString()}`);
  tone.volume = playingNow().volume;
  tone.play().catch((fault: unknown) => hint(sentence(fault)));
};

/** It is no note; that is remembered. */
export const noNoteHere = async (): Promise<void> => {
  const offer = offerInHand();
  if (offer === null) return;
  const { cursor } = atHand();
  try {
    const body = { ...asked(), number: offer.number, id: crypto.randomUUID() };
    setOffers({ found: viewOf(await take(api.POST("/api/solos/{solo_id}/offers/no-note", { params: path(), body }))) });
    setCursor({ tick: Math.max(cursor.tick, offer.note.tick) });
  } catch (fault) {
    hint(sentence(fault));
  }
};

/** Offer again what was said to be no note. */
export const offerAllAgain = async (): Promise<void> => {
  try {
    setOffers({
      found: viewOf(await take(api.POST("/api/solos/{solo_id}/offers/all-again", { params: path(), body: asked() }))),
    });
  } catch (fault) {
    hint(sentence(fault));
  }
};

/** The bend of the note in hand takes its size and its timing from what was heard. */
export const bendAsHeard = async (note: string): Promise<void> => {
  const { span, hints } = offersNow();
  if (span === null) {
    hint("Listen to this span first; then the bend can follow what was heard.");
    return;
  }
  await request((solo_id) =>
    take(
      api.POST("/api/solos/{solo_id}/bend-as-heard", {
        params: { path: { solo_id } },
        body: { start: span.from, end: span.to, hints, note },
      }),
    ),
  );
};
