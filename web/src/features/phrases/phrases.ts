/** The phrases of the open solo: kept as licks, shared with other solos, held against the melody. */
import { create } from "zustand";
import { api, type Schemas, sentence, take } from "@/api/client";
import { atHand, choosePhrase, select, setCursor, useCursor } from "@/score/cursor";
import { openDocument, phraseAt, useDocument } from "@/score/document";
import { inOrder } from "@/score/elements";
import { hint } from "@/score/saving";
import { request, settled } from "@/score/sending";
import { shownNow, useShown } from "@/score/shown";

export type Kin = Schemas["KinView"];
export type Span = { readonly from: number; readonly to: number };
type State = {
  readonly kin: readonly Kin[] | null;
  readonly kinOf: string; // the span that they belong to
  readonly melody: Schemas["MelodyView"] | null;
  readonly kept: string; // what was kept last, in words
  readonly trouble: string;
};
const FIRST: State = { kin: null, kinOf: "", melody: null, kept: "", trouble: "" };
export const usePhrases = create<State>(() => FIRST);
const set = usePhrases.setState;

const PATIENCE_MS = 400;

/** What is meant: what is marked, else the phrase at the cursor, else the last before it. */
export const spanInHand = (): Span | null => {
  const { selection, cursor } = atHand();
  if (selection !== null) return { from: selection.from, to: selection.to };
  const phrase = phraseAt(cursor.tick);
  return phrase === undefined ? null : { from: phrase.start, to: phrase.end };
};

const soloId = (): string => openDocument().bench?.solo_id ?? "";
const notesIn = ({ from, to }: Span) =>
  inOrder(openDocument().elements.notes).filter((note) => note.tick >= from && note.tick < to);

let keeping = false; // a second press while it is being kept keeps nothing twice

/** Keep what is meant as a lick; it follows later corrections. */
export const keepLick = async (): Promise<void> => {
  const span = spanInHand();
  const notes = span === null ? [] : notesIn(span);
  const [first, last] = [notes[0], notes[notes.length - 1]];
  if (span === null || first === undefined || last === undefined || keeping) return;
  keeping = true;
  try {
    await settled();
    const id = crypto.randomUUID();
    const body = {
      id,
      solo: soloId(),
      first: first.id,
      last: last.id,
      name: "",
      tags: [],
      words: "",
    };
    const lick = await take(api.POST("/api/licks", { params: {}, body }));
    const name = lick.name === "" ? "" : ` as “${lick.name}”`;
    const kept = lick.lick === id ? `Kept in the lick book${name}.` : `It is in the lick book already${name}.`;
    set({ kept, trouble: "" });
    hint(kept);
  } catch (fault) {
    set({ trouble: sentence(fault) });
    hint(sentence(fault));
  } finally {
    keeping = false;
  }
};

/** The degrees of what is meant, as a search takes them. */
export const degreesInHand = (): string => {
  const span = spanInHand();
  const { views } = openDocument();
  if (span === null) return "";
  const onsets = new Map<number, string>();
  for (const note of notesIn(span)) {
    const degree = views[note.id]?.degree ?? "";
    if (!note.dead && degree !== "" && !onsets.has(note.tick)) onsets.set(note.tick, degree.replace("+", ""));
  }
  return [...onsets.values()].join(" ");
};

export const goToPhrase = (by: 1 | -1): void => {
  const phrases = Object.values(openDocument().elements.phrases).sort((a, b) => a.start - b.start);
  const now = phrases.findIndex(({ id }) => id === phraseAt(atHand().cursor.tick)?.id);
  const next = phrases[Math.min(phrases.length - 1, Math.max(0, now + by))];
  if (next !== undefined) goTo(next);
};
export const goTo = (phrase: { readonly id: string; readonly start: number }): void => {
  choosePhrase(phrase.id);
  select(null);
  setCursor({ tick: phrase.start });
};

const readKin = async (): Promise<void> => {
  const span = spanInHand();
  if (span === null) {
    set({ kin: [], kinOf: "" });
    return;
  }
  const kinOf = `${span.from} ${span.to}`;
  try {
    const kin = await take(
      api.GET("/api/solos/{solo_id}/kin", {
        params: { path: { solo_id: soloId() }, query: { start: span.from, end: span.to } },
      }),
    );
    set({ kin, kinOf });
  } catch (fault) {
    set({ kin: [], kinOf, trouble: sentence(fault) });
  }
};

export const readMelody = async (): Promise<void> => {
  try {
    const params = { path: { solo_id: soloId() } };
    set({ melody: await take(api.GET("/api/solos/{solo_id}/melody", { params })) });
  } catch (fault) {
    set({ trouble: sentence(fault) });
  }
};

/** Say that this solo is the tune's melody, or that it is a solo again. */
export const markMelody = async (on: boolean): Promise<void> => {
  const done = await request((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/melody", { params: { path: { solo_id } }, body: { on } })),
  );
  if (done) await readMelody();
};

/** What is marked becomes the tune's melody, a solo of its own on this recording. Gives its id. */
export const liftMelody = async (): Promise<string | null> => {
  const span = spanInHand();
  if (span === null) {
    hint("Mark the notes of the melody first.");
    return null;
  }
  try {
    await settled();
    const body = { start: span.from, end: span.to };
    const params = { path: { solo_id: soloId() } };
    const { solo_id } = await take(api.POST("/api/solos/{solo_id}/melody/lifted", { params, body }));
    await readMelody();
    return solo_id;
  } catch (fault) {
    set({ trouble: sentence(fault) });
    return null;
  }
};

/** Read what belongs to the phrase in hand while the stage is open; the function that is returned ends it. */
export const followPhrases = (): (() => void) => {
  set(FIRST);
  let soon: ReturnType<typeof setTimeout> | undefined;
  const read = (melody: boolean) => {
    clearTimeout(soon);
    if (shownNow().stage !== "phrases") return;
    soon = setTimeout(() => {
      void settled().then(() => {
        void readKin();
        if (melody) void readMelody();
      });
    }, PATIENCE_MS);
  };
  const ends = [
    useShown.subscribe((now, before) => {
      if (now.stage !== before.stage) read(true);
    }),
    useDocument.subscribe((now, before) => {
      if (now.elements !== before.elements) read(true);
    }),
    useCursor.subscribe((now, before) => {
      const moved = phraseAt(now.cursor.tick)?.id !== phraseAt(before.cursor.tick)?.id;
      if (now.selection !== before.selection || moved) read(false);
    }),
  ];
  read(true);
  return () => {
    clearTimeout(soon);
    for (const end of ends) end();
  };
};
