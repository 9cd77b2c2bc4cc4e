/**
 * The open solo: its things and marks, where the hand and the cursor are, and the sending of edits.
 * An edit is applied here at once, kept in the outbox, and sent; one request is in flight at a time.
 */
import { create } from "zustand";
import { api, AWAY, Refusal, type Schemas, sentence, take, Unreachable } from "@/api/client";
import { Grid } from "./axis";
import type { Deed, Things } from "./edits";
import { inOrder, newId } from "./edits";
import type { Hand, Place } from "./hand";
import * as outbox from "./outbox";
import type { Answer, Bench, Change, Edit, Note, NoteMark } from "./types";

export type Cursor = { readonly tick: number; readonly string: number };
export type Selection = { readonly from: number; readonly to: number };
export type Latches = { readonly join: boolean; readonly stay: boolean; readonly open: boolean; readonly reach: boolean; readonly move: boolean };
export type Entry = {
  readonly length: number; // index in the table of lengths
  readonly dot: boolean;
  readonly triplet: boolean;
  readonly tuplet: number; // notes in the time of four; 0 for none
  readonly position: number;
  readonly slide: number;
  readonly recent: readonly Place[];
};
export type Sending = "saved" | "sending" | "away" | "refused";
/** Something that another changed too: what I wrote, what stands there. `taken` is another thing at the same place. */
export type Clash = {
  readonly sentence: string;
  readonly edit: string | null; // null: an undo
  readonly kind: string;
  readonly id: string;
  readonly mine: Record<string, unknown> | null;
  readonly theirs: Record<string, unknown> | null;
  readonly taken: boolean;
  readonly rest: boolean;
};
export type Tool = "note" | "hand" | "doubts" | "find" | "by ear" | "versions" | "history";
export type Loopable = { readonly tick: number; readonly end: number; readonly phrase: string | null };


export type BenchState = {
  readonly bench: Bench | null;
  readonly past: number | null; // the earlier state that is open, to be read only
  readonly things: Things;
  readonly marks: Readonly<Record<string, NoteMark>>;
  readonly unanswered: ReadonlySet<string>; // notes whose label is older than their writing
  readonly grid: Grid;
  readonly versions: Readonly<Record<string, number>>;
  readonly cursor: Cursor;
  readonly selection: Selection | null;
  readonly picked: string | null;
  readonly phrase: string | null;
  readonly entry: Entry;
  readonly latches: Latches;
  readonly sending: Sending;
  readonly waiting: number;
  readonly trouble: string | null;
  readonly said: readonly string[]; // what the server found on the way of the last request
  readonly clash: Clash | null;
  readonly under: Under | null;
  readonly tool: Tool;
  readonly menu: boolean; // the menu at the note
  readonly figure: Selection | null; // the last figure that was repeated
  readonly ways: Previewed | null;
  readonly handMap: Schemas["HandMap"] | null; // drawn on the neck
  readonly compared: Schemas["Comparison"] | null;
  readonly placing: number | null; // the bar that the next click in the sound puts
};

/** Ways of the hand through a span, one of them shown on the neck. */
export type Previewed = { readonly from: number; readonly to: number; readonly found: Schemas["Ways"]; readonly at: number };

/** Another part of the same recording, laid under the one in hand. */
export type Under = { readonly id: string; readonly notes: readonly Schemas["PartNote"][] };

const NO_LATCH: Latches = { join: false, stay: false, open: false, reach: false, move: false };
const NOTHING: Things = { notes: {}, rests: {}, stacks: {}, phrases: {}, questions: {}, dynamics: {}, swells: {} };
const EIGHTH = 3; // index of the length that a page starts with

const empty = (): BenchState => ({
  bench: null, past: null, things: NOTHING, marks: {}, unanswered: new Set(), grid: new Grid([{ tick: 0, second: 0 }, { tick: 1, second: 1 }]),
  versions: {}, cursor: { tick: 0, string: 1 }, selection: null, picked: null, phrase: null,
  entry: { length: EIGHTH, dot: false, triplet: false, tuplet: 0, position: 5, slide: 0, recent: [] },
  latches: NO_LATCH, sending: "saved", waiting: 0, trouble: null, said: [], clash: null, under: null, handMap: null, compared: null, tool: "note", menu: false, figure: null, ways: null, placing: null,
});

export const useBench = create<BenchState>(() => empty());
const { getState: get, setState: set } = useBench;

const byId = <T extends { id: string }>(list: readonly T[]): Record<string, T> => Object.fromEntries(list.map((one) => [one.id, one]));

const PLURAL = { note: "notes", rest: "rests", stack: "stacks", phrase: "phrases", question: "questions", dynamic: "dynamics", swell: "swells" } as const;

/** Things after changes; a document of the ground changes nothing here, its strip comes with the answer. */
const applied = (things: Things, changes: readonly Change[]): Things => {
  if (changes.length === 0) return things;
  const next = { ...things } as Record<string, Record<string, unknown>>;
  const copied = new Set<string>();
  for (const { kind, id, after } of changes) {
    if (!(kind in PLURAL)) continue;
    const name = PLURAL[kind as keyof typeof PLURAL];
    if (!copied.has(name)) next[name] = { ...next[name] };
    copied.add(name);
    const group = next[name] as Record<string, unknown>;
    if (after === null || after === undefined) delete group[id];
    else group[id] = after;
  }
  return next as unknown as Things;
};

const settingsAfter = (bench: Bench, edits: readonly Edit[]): Bench => {
  const settings: Record<string, unknown> = { ...bench.solo.settings };
  const ground: Record<string, unknown> = { ...bench.ground.settings };
  const anchors = new Map(bench.ground.anchors.map((anchor) => [anchor.id, anchor]));
  for (const edit of edits) {
    for (const change of edit.changes) {
      if (change.kind === "setting") (edit.document === bench.solo_id ? settings : ground)[change.id] = change.after;
      if (change.kind === "anchor") {
        if (change.after === null) anchors.delete(change.id);
        else anchors.set(change.id, change.after as never);
      }
    }
  }
  return {
    ...bench,
    solo: { ...bench.solo, settings: settings as Bench["solo"]["settings"] },
    ground: {
      ...bench.ground,
      settings: ground as Bench["ground"]["settings"],
      anchors: [...anchors.values()].sort((a, b) => a.tick - b.tick),
    },
  };
};

/** Open a solo, and apply again what was not answered when the page was closed; or open one of its earlier states, which takes no edits. */
export const openSolo = async (soloId: string, past: number | null = get().past): Promise<void> => {
  const query = past === null ? {} : { state: past };
  // The client widens tuples to arrays; the server sent what its schema says.
  const bench = (await take(api.GET("/api/solos/{solo_id}", { params: { path: { solo_id: soloId }, query } }))) as unknown as Bench;
  const kept = past === null ? await outbox.waiting(soloId) : [];
  const things: Things = {
    notes: byId(bench.solo.notes), rests: byId(bench.solo.rests), stacks: byId(bench.solo.stacks),
    phrases: byId(bench.solo.phrases), questions: byId(bench.solo.questions), dynamics: byId(bench.solo.dynamics), swells: byId(bench.solo.swells),
  };
  const before = get();
  const same = before.bench?.solo_id === soloId;
  const first = bench.strip.bars.find((bar) => bar.number === bench.solo.settings.first_bar) ?? bench.strip.bars[0];
  const fretted = bench.solo.notes.map((note) => note.fret ?? 0).filter((fret) => fret > 0);
  set({
    ...(same ? before : empty()),
    bench, past, things: applied(things, kept.flatMap((edit) => edit.changes)), marks: bench.marks,
    unanswered: new Set(touched(kept)), grid: new Grid(bench.ground.anchors), versions: bench.versions,
    waiting: kept.length, sending: kept.length > 0 ? "sending" : "saved", trouble: null, clash: null,
    ...(same ? {} : {
      cursor: { tick: first?.tick ?? 0, string: 2 },
      entry: { ...empty().entry, position: fretted[0] === undefined ? 5 : Math.max(1, Math.round(fretted[0] / 100) - 1) },
    }),
  });
  queue = kept;
  if (past !== null) return;
  listen(soloId);
  void send();
};

/** An earlier state is open to be read: why nothing is written on it. */
const readOnly = (): boolean => {
  const { past } = get();
  if (past !== null) set({ trouble: `State ${past} is open to be read. Put it back to write on from it, or go back to the present.` });
  return past !== null;
};

export const closeSolo = (): void => {
  queue = [];
  news?.close();
  news = null;
  set(empty());
};

const touched = (edits: readonly Edit[]): string[] =>
  edits.flatMap((edit) => edit.changes.filter((change) => change.kind === "note").map((change) => change.id));

// -- sending ---------------------------------------------------------------------------------------------------

let queue: Edit[] = [];
let inFlight: Promise<void> | null = null;
let retry: ReturnType<typeof setTimeout> | null = null;
const AGAIN_MS = 1_500;
const MOST_AT_ONCE = 200;

/** Do a deed: shown at once, kept, sent. */
export const act = (deed: Deed | null): void => {
  const { bench, things, unanswered } = get();
  if (bench === null || deed === null || deed.changes.length === 0 || readOnly()) return;
  const edit: Edit = {
    id: newId(), act: newId(), document: bench.solo_id, made_in: bench.solo_id, undoes: null, person: bench.person,
    at: new Date().toISOString(), schema: 1, label: deed.label, changes: deed.changes,
  };
  queue = [...queue, edit];
  set({
    things: applied(things, edit.changes),
    unanswered: new Set([...unanswered, ...touched([edit])]),
    picked: deed.picked, waiting: queue.length, sending: "sending",
  });
  void outbox.keep(bench.solo_id, edit).then(send, send);
};

const send = async (): Promise<void> => {
  if (inFlight !== null) return inFlight;
  const { bench, sending } = get();
  if (bench === null || (queue.length === 0 && !isBehind()) || sending === "refused") return undefined;
  inFlight = deliver(bench.solo_id, queue.slice(0, MOST_AT_ONCE));
  await inFlight;
  inFlight = null;
  if (get().sending !== "away" && (queue.length > 0 || isBehind())) return send();
  return undefined;
};

// -- news of others ----------------------------------------------------------------------------------------------

let news: EventSource | null = null;
let heard = new Map<string, number>(); // the newest version of each document that the server spoke of

const isBehind = (): boolean => {
  const { versions } = get();
  return [...heard].some(([document, version]) => version > (versions[document] ?? version));
};

/** Hear of every new version; after a break all that is known may be old. */
const listen = (soloId: string): void => {
  news?.close();
  heard = new Map();
  news = new EventSource(`/api/solos/${soloId}/news`);
  news.onmessage = (event: MessageEvent<string>) => {
    const said = JSON.parse(event.data) as { document: string; version: number } | null;
    if (said === null) askWhatChanged();
    else heard.set(said.document, Math.max(said.version, heard.get(said.document) ?? 0));
    void send();
  };
  let broken = false;
  news.onerror = () => { broken = true; };
  news.onopen = () => {
    if (!broken) return;
    broken = false;
    askWhatChanged();
    void send();
  };
};

const askWhatChanged = (): void => {
  for (const document of Object.keys(get().versions)) heard.set(document, Number.MAX_SAFE_INTEGER);
};

const deliver = async (soloId: string, edits: Edit[]): Promise<void> => {
  try {
    const answer = await take(api.POST("/api/solos/{solo_id}/edits", {
      params: { path: { solo_id: soloId } }, body: { versions: get().versions, edits },
    }));
    const sent = new Set(edits.map((edit) => edit.id));
    await outbox.drop(soloId, sent);
    if (get().bench?.solo_id !== soloId) return;
    queue = queue.filter((edit) => !sent.has(edit.id));
    for (const document of Object.keys(answer.versions)) if (heard.get(document) === Number.MAX_SAFE_INTEGER) heard.delete(document);
    takeIn(answer, edits.length > 0);
  } catch (fault) {
    if (get().bench?.solo_id !== soloId) return;
    if (fault instanceof Unreachable) {
      set({ sending: "away", trouble: fault.message === AWAY ? null : fault.message });
      retry ??= setTimeout(() => { retry = null; set({ sending: "sending" }); void send(); }, AGAIN_MS);
    } else set({ sending: "refused", trouble: sentence(fault), clash: fault instanceof Refusal ? clashOf(fault, edits) : null });
  }
};

/** Take in an answer: what others did, the labels that changed, the strip when the ground did. News of others, to which nothing was sent, leaves what is being said or asked. */
const takeIn = (answer: Answer, settles = true): void => {
  const { bench, things, marks, picked } = get();
  if (bench === null) return;
  const next: Record<string, NoteMark> = answer.whole ? {} : { ...marks };
  for (const [id, mark] of Object.entries(answer.marks)) {
    if (mark === null) delete next[id];
    else next[id] = mark;
  }
  const later = queue.flatMap((edit) => edit.changes);
  const mine = answer.edits.filter((edit) => edit.document === bench.solo_id);
  const all = applied(applied(things, mine.flatMap((edit) => edit.changes)), later);
  const changed = settingsAfter(bench, answer.edits);
  set({
    bench: {
      ...changed, history: answer.history, misfits: answer.misfits, progress: answer.progress,
      strip: answer.strip ?? bench.strip, tables: answer.tables ?? bench.tables,
    },
    things: all, marks: next, versions: answer.versions, unanswered: new Set(touched(queue)), waiting: queue.length,
    grid: answer.strip ? new Grid(changed.ground.anchors) : get().grid,
    sending: queue.length > 0 ? "sending" : "saved", ...(settles ? { trouble: null, clash: null } : {}),
    picked: picked !== null && all.notes[picked] === undefined ? null : picked,
  });
};

/** Everything that waits has been answered, or the reason why not is shown. */
export const settled = async (): Promise<boolean> => {
  for (let tries = 0; queue.length > 0 && tries < 5; tries += 1) await send();
  return queue.length === 0;
};

/** Bring what an answer changed into view. */
const showChanged = (edits: readonly Edit[]): void => {
  for (const { kind, before, after } of edits.flatMap((edit) => edit.changes)) {
    const thing = (after ?? before) as { tick?: number; start?: number; string?: number } | null;
    const tick = thing?.tick ?? thing?.start;
    if (kind !== "setting" && tick !== undefined) return setCursor({ tick, ...(thing?.string === undefined ? {} : { string: thing.string }) });
  }
};

/** Ask the server for a change that it works out itself; edits that wait go first. */
export const request = async (ask: (soloId: string, versions: Record<string, number>) => Promise<Answer>, shown = false): Promise<boolean> => {
  const { bench } = get();
  if (bench === null || readOnly() || !(await settled())) return false;
  // Answers are taken in the order of their versions: nothing else is asked meanwhile.
  while (inFlight !== null) await inFlight;
  const asked = ask(bench.solo_id, get().versions);
  inFlight = asked.then(() => undefined, () => undefined);
  try {
    const answer = await asked;
    if (get().bench?.solo_id !== bench.solo_id) return false;
    takeIn(answer);
    set({ said: answer.said ?? [] });
    if (shown) showChanged(answer.edits);
    return true;
  } catch (fault) {
    if (fault instanceof Refusal && fault.problem.code === "chart-unreadable") throw fault;
    set({ trouble: sentence(fault), clash: fault instanceof Refusal ? clashOf(fault, []) : null });
    return false;
  } finally {
    inFlight = null;
    void send();
  }
};

export const undo = (rest = false): Promise<boolean> => request((solo_id, versions) => take(api.POST("/api/solos/{solo_id}/undo", { params: { path: { solo_id } }, body: { versions, rest } })), true);
export const redo = (): Promise<boolean> => request((solo_id, versions) => take(api.POST("/api/solos/{solo_id}/redo", { params: { path: { solo_id } }, body: { versions } })), true);

// -- when two changed the same ------------------------------------------------------------------------------------

const clashOf = (fault: Refusal, edits: readonly Edit[]): Clash | null => {
  const { code, where, now, title } = fault.problem;
  if (code !== "edit-conflict" && code !== "place-taken") return null;
  const [kind, id] = [String(where["kind"]), String(where["id"])];
  const edit = edits.find((one) => one.id === where["edit"]);
  const change = edit?.changes.find((one) => one.kind === kind && one.id === id);
  return {
    sentence: title, edit: edit?.id ?? null, kind, id, taken: code === "place-taken", rest: where["rest"] === "possible",
    mine: (change?.after ?? null) as Clash["mine"], theirs: (now ?? null) as Clash["theirs"],
  };
};

/** The edit of a clash so that it goes over what stands there. */
const overwriting = (edit: Edit, clash: Clash): Edit => ({
  ...edit, id: newId(),
  changes: clash.taken
    ? [{ kind: clash.kind as Change["kind"], id: String(clash.theirs?.["id"]), before: clash.theirs, after: null }, ...edit.changes]
    : edit.changes.flatMap((one) => {
        if (one.kind !== clash.kind || one.id !== clash.id) return [one];
        return one.after === null && clash.theirs === null ? [] : [{ ...one, before: clash.theirs }];
      }),
});

/** Decide a clash: mine goes over what stands there, or is laid aside. Everything else that waits goes after it. */
export const decide = async (mine: boolean): Promise<void> => {
  const { bench, clash } = get();
  const edit = queue.find((one) => one.id === clash?.edit);
  if (bench === null || clash === null) return;
  if (edit === undefined) { dismiss(); return; }
  const made = mine ? overwriting(edit, clash) : null;
  await outbox.replace(bench.solo_id, edit.id, made !== null && made.changes.length > 0 ? made : null);
  set({ sending: "sending", trouble: null, clash: null });
  await openSolo(bench.solo_id);
};

/** After a refusal: load what is stored, with the edits that could not go laid aside. */
export const loadAnew = async (): Promise<void> => {
  const { bench } = get();
  if (bench === null) return;
  await outbox.layAside(bench.solo_id);
  queue = [];
  set({ sending: "saved", trouble: null });
  await openSolo(bench.solo_id);
};

export const drawMap = (handMap: Schemas["HandMap"] | null): void => set({ handMap });
export const compareTo = (compared: Schemas["Comparison"] | null): void => set({ compared });
/** What one tool was told stays with it. */
export const openTool = (tool: Tool): void => set((state) => (state.tool === tool ? {} : { tool, said: [] }));
export const openMenu = (menu: boolean): void => set({ menu });
export const setFigure = (figure: Selection | null): void => set({ figure });
export const preview = (ways: Previewed | null): void => set({ ways });
export const placeBar = (placing: number | null): void => set({ placing });
export const layUnder = (under: Under | null): void => set({ under });
/** What is known of the recording has been written down otherwise. */
export const setRecording = (recording: Schemas["Recording"]): void => set((state) => (state.bench === null ? {} : { bench: { ...state.bench, recording } }));
export const dismiss = (): void => set({ trouble: null, clash: null });

// -- the hand and the cursor -------------------------------------------------------------------------------------

export const ticksOf = (state: BenchState): number => {
  const length = state.bench?.tables.lengths[state.entry.length];
  if (length === undefined) return 1;
  const tuplet = length.tuplets.find((one) => one.count === state.entry.tuplet);
  if (tuplet !== undefined) return tuplet.ticks;
  return state.entry.triplet ? length.triplet : state.entry.dot ? length.dotted : length.ticks;
};

export const handOf = (state: BenchState, mirrored: boolean): Hand => ({
  position: state.entry.position, strings: state.bench?.tables.strings.length ?? 6, slide: state.entry.slide, mirrored,
});

export const pickedNote = (state: BenchState): Note | null => (state.picked === null ? null : (state.things.notes[state.picked] ?? null));

export const setEntry = (entry: Partial<Entry>): void => set((state) => ({ entry: { ...state.entry, ...entry } }));
export const setLatch = (name: keyof Latches, on?: boolean): void => set((state) => ({ latches: { ...state.latches, [name]: on ?? !state.latches[name] } }));
export const clearLatches = (): void => set((state) => ({ latches: { ...NO_LATCH, move: state.latches.move } }));

/** First and last tick of the strip. */
export const bounds = (state: BenchState): readonly [number, number] => {
  const bars = state.bench?.strip.bars ?? [];
  return [bars[0]?.tick ?? 0, bars[bars.length - 1]?.end ?? 0];
};

export const setCursor = (cursor: Partial<Cursor>, picked: string | null = null): void => {
  const state = get();
  const [first, last] = bounds(state);
  const tick = Math.min(Math.max(cursor.tick ?? state.cursor.tick, first), last);
  set({ cursor: { tick, string: cursor.string ?? state.cursor.string }, picked });
};

/** Put the cursor on a note and take it in hand. */
export const pick = (note: Note): void => setCursor({ tick: note.tick, string: note.string }, note.id);
/** To the note that something is about; to its place where no note is left. */
export const goTo = (tick: number, id: string | null | undefined): void => {
  const note = get().things.notes[id ?? ""];
  if (note === undefined) setCursor({ tick });
  else pick(note);
};
export const select = (selection: Selection | null): void => set({ selection: selection === null || selection.to <= selection.from ? null : selection });
export const choosePhrase = (phrase: string | null): void => set({ phrase });
export const hint = (trouble: string): void => set({ trouble });

/** The note that sounds at the cursor on its string, else any that starts there. */
export const noteAtCursor = (state: BenchState): Note | null => {
  const { tick, string } = state.cursor;
  const notes = inOrder(state.things.notes);
  return (
    notes.find((note) => note.string === string && note.tick <= tick && tick < note.tick + note.ticks) ??
    notes.find((note) => note.tick === tick) ?? null
  );
};

