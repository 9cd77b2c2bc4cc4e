/** Reading the open solo: asked of the server when it changes; readings picked, words kept, notes asked why. */
import { api, sentence, take, type Schemas } from "@/api/client";
import {
  analysingNow,
  forgetAnalysing,
  inView,
  type PhraseRead,
  type Reading,
  readingInHand,
  setAnalysing,
} from "@/score/analysis";
import { atHand, useCursor } from "@/score/cursor";
import { openDocument, useDocument } from "@/score/document";
import { inOrder } from "@/score/elements";
import { useLook } from "@/score/look";
import { playerNow } from "@/score/playing";
import { hint } from "@/score/saving";
import { request, settled, tryRequest } from "@/score/sending";
import { shownNow, type Stage, useShown } from "@/score/shown";

type Role = NonNullable<Schemas["RoleRequest"]["role"]>;
const SOON_MS = 120;

const path = () => ({ path: { solo_id: openDocument().bench?.solo_id ?? "" } });
const query = () => useLook.getState().reader;
let soon: ReturnType<typeof setTimeout> | undefined;
let asked = 0;

// The client widens tuples to arrays; the server sent what its schema says.
const analysisOf = (sent: unknown): Schemas["AnalysisView"] => sent as Schemas["AnalysisView"];

export const readAgain = async (): Promise<void> => {
  clearTimeout(soon);
  const number = (asked += 1);
  try {
    await settled();
    const params = { ...path(), query: query() };
    const read = analysisOf(await take(api.GET("/api/solos/{solo_id}/analysis", { params })));
    if (number !== asked) return;
    setAnalysing({ read, message: "" });
    void readMarked();
    if (analysingNow().why !== null) void askWhy();
  } catch (fault) {
    if (number === asked) setAnalysing({ message: sentence(fault) });
  }
};

/** What is marked is read like a phrase. */
const readMarked = async (): Promise<void> => {
  const { selection } = useCursor.getState();
  if (selection === null) {
    setAnalysing({ marked: null });
    return;
  }
  try {
    const span = { start: selection.from, end: selection.to };
    const params = { ...path(), query: { ...query(), ...span } };
    const marked = await take(api.GET("/api/solos/{solo_id}/analysis/span", { params }));
    if (useCursor.getState().selection === selection) setAnalysing({ marked });
  } catch {
    setAnalysing({ marked: null }); // nothing is written there
  }
};

/** Phrases over all notes that stand in none. */
export const cutSuggested = async (): Promise<void> => {
  const done = await request((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/analysis/phrases", { params: { path: { solo_id }, query: query() } })),
  );
  if (done) await readAgain();
};

/** Give a note a role over the computed one; null leaves it to the program again. */
export const giveRole = async (note: string, role: Role | null, goal: string | null = null): Promise<void> => {
  const body = { note, role, goal };
  const done = await request((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/analysis/role", { params: { path: { solo_id }, query: query() }, body })),
  );
  if (done) await readAgain();
};

/** The stages that tell what is read. */
const reads = (stage: Stage): boolean => stage === "analysis" || stage === "phrases";

/** While such a stage is open its readings follow what is written, and the reasons the cursor; other stages do not ask. */
export const followReading = (): (() => void) => {
  let stale = true;
  const written = useDocument.subscribe((now, before) => {
    if (now.elements === before.elements && now.grid === before.grid) return;
    if (!reads(shownNow().stage)) {
      stale = true;
      return;
    }
    clearTimeout(soon);
    soon = setTimeout(() => void readAgain(), SOON_MS);
  });
  const opened = useShown.subscribe((now, before) => {
    if (now.stage === before.stage || !reads(now.stage) || !stale) return;
    stale = false;
    void readAgain();
  });
  const moved = useCursor.subscribe((now, before) => {
    if (!reads(shownNow().stage)) return;
    if (now.cursor.tick !== before.cursor.tick) {
      const state = analysingNow();
      const same = inView(state, now.cursor.tick)?.id === inView(state, before.cursor.tick)?.id;
      setAnalysing({ chosen: null, ...(same ? {} : { telling: false }) });
    }
    if (now.selection !== before.selection) void readMarked();
    if (analysingNow().why !== null && (now.cursor !== before.cursor || now.picked !== before.picked)) void askWhy();
  });
  if (reads(shownNow().stage)) {
    stale = false;
    void readAgain();
  }
  return () => {
    written();
    opened();
    moved();
    asked += 1;
    clearTimeout(soon);
    forgetAnalysing();
  };
};

export const phraseInHand = (): PhraseRead | null => inView(analysingNow(), atHand().cursor.tick);
export const inHand = (): Reading | null => readingInHand(phraseInHand(), analysingNow().chosen);

/** The reading after the one in hand, or before it. */
export const stepReading = (by: 1 | -1): void => {
  const readings = phraseInHand()?.readings ?? [];
  const at = readings.findIndex((one) => one.key === inHand()?.key);
  const next = readings[Math.min(readings.length - 1, Math.max(0, at + by))];
  if (next !== undefined) setAnalysing({ chosen: next.key, tab: "readings" });
};

/** Pick a reading, or let it go again. */
export const pickReading = async (reading: Reading): Promise<void> => {
  const phrase = phraseInHand();
  if (phrase === null) return;
  if (phrase.id === null) {
    hint("Cut a phrase first. Then a reading of it can be picked.");
    return;
  }
  const body = { phrase: phrase.id, reading: reading.key, on: !reading.picked };
  setAnalysing({ chosen: reading.key });
  const done = await request((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/analysis/picked", { params: { path: { solo_id }, query: query() }, body })),
  );
  if (done) await readAgain();
};

/** Keep the teacher's words for a phrase; none leave it to the program. What went wrong, or null. */
export const keepWords = async (phrase: PhraseRead, words: string): Promise<string | null> => {
  if (phrase.id === null) return "Only a phrase can have your words: cut one here first.";
  const body = { phrase: phrase.id, words };
  const why = await tryRequest((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/analysis/words", { params: { path: { solo_id }, query: query() }, body })),
  );
  if (why === null) await readAgain();
  return why;
};

/** The note in hand: the one picked, else one at the cursor, its own string first, else the last before it. */
const noteAtHand = (): string | null => {
  const { cursor, picked } = atHand();
  if (picked !== null) return picked;
  const notes = inOrder(openDocument().elements.notes).filter((note) => note.tick <= cursor.tick);
  const here = notes.filter((note) => note.tick === cursor.tick);
  return (here.find((note) => note.string === cursor.string) ?? here[0] ?? notes[notes.length - 1])?.id ?? null;
};

/** Why the note at the cursor is called what it is. */
export const askWhy = async (): Promise<void> => {
  const picked = noteAtHand();
  if (picked === null) {
    setAnalysing({ why: null });
    hint("There is no note at the cursor.");
    return;
  }
  try {
    const params = { ...path(), query: { ...query(), note: picked } };
    const why = await take(api.GET("/api/solos/{solo_id}/analysis/why", { params }));
    if (noteAtHand() === picked) setAnalysing({ why });
  } catch (fault) {
    setAnalysing({ why: null, message: sentence(fault) });
  }
};

/** Lay a chord that fits better over the span for which it was offered. */
export const layOver = async (offer: Schemas["OfferedChanges"]): Promise<void> => {
  const body = { start: offer.start, end: offer.end, text: offer.symbol, name: offer.symbol };
  const done = await request((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/other-changes", { params: { path: { solo_id }, query: query() }, body })),
  );
  if (done) await readAgain();
};

/** A span, looped and heard: the recording where there is one, or the writing over its chords. */
export const hear = (from: number, to: number, overChords = false): void => {
  const player = playerNow();
  player?.setHear(overChords ? "chords" : "recording");
  void player?.loopOver({ from, to }, true);
};
