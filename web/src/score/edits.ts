/**
 * Edits built from keys: values before and after, so that the page shows them at once and sends them as they are.
 * Only lengths and places are handled here; what a note means is the server's to say.
 */
import type { Change, Dynamic, Kind, Note, Phrase, Question, Rest, Stack, Swell, Tables } from "./types";

export type Things = {
  readonly notes: Readonly<Record<string, Note>>;
  readonly rests: Readonly<Record<string, Rest>>;
  readonly stacks: Readonly<Record<string, Stack>>;
  readonly phrases: Readonly<Record<string, Phrase>>;
  readonly questions: Readonly<Record<string, Question>>;
  readonly dynamics: Readonly<Record<string, Dynamic>>;
  readonly swells: Readonly<Record<string, Swell>>;
};

const ordered = new WeakMap<Things["notes"], readonly Note[]>();
/** Notes in the order of time, strings from the thinnest within; found once for as long as no note changes. */
export const inOrder = (notes: Things["notes"]): readonly Note[] => {
  const known = ordered.get(notes);
  if (known !== undefined) return known;
  const found = Object.values(notes).sort((a, b) => a.tick - b.tick || a.string - b.string);
  ordered.set(notes, found);
  return found;
};

/** What a key would do: a label for the history, the changes, and the note that is in hand afterwards. */
export type Deed = { readonly label: string; readonly changes: Change[]; readonly picked: string | null };

const end = (thing: { tick: number; ticks: number }): number => thing.tick + thing.ticks;
const change = (kind: Kind, id: string, before: unknown, after: unknown): Change =>
  ({ kind, id, before, after });

export const newId = (): string => crypto.randomUUID();

export const plainNote = (id: string, tick: number, ticks: number, string: number, fret: number): Note => ({
  id, tick, ticks, string, fret: fret * 100, attack: { kind: "picked" }, course: [], vibrato: null, trill: null,
  ending: null, dead: false, ghost: false, accent: false, palm_mute: false, tremolo: null, rake: null, finger: null,
  pick: null, stack: null, sure: "sure", heard: null,
});

/** Collects changes so that each thing has one, from what it was to what it becomes. */
class Draft {
  private readonly was = new Map<string, Change>();
  private readonly now = { note: new Map<string, Note | null>(), rest: new Map<string, Rest | null>(), stack: new Map<string, Stack | null>() };

  constructor(private readonly things: Things) {}

  set<K extends "note" | "rest" | "stack">(kind: K, id: string, after: { note: Note; rest: Rest; stack: Stack }[K] | null): void {
    (this.now[kind] as Map<string, typeof after>).set(id, after);
    this.was.set(`${kind} ${id}`, change(kind, id, this.things[`${kind}s`][id] ?? null, after));
  }

  note(id: string): Note | undefined {
    const drafted = this.now.note.get(id);
    return drafted === undefined ? this.things.notes[id] : (drafted ?? undefined);
  }

  hasStack(id: string): boolean {
    const drafted = this.now.stack.get(id);
    return drafted === undefined ? this.things.stacks[id] !== undefined : drafted !== null;
  }

  notes(): readonly Note[] {
    return this.drafted(inOrder(this.things.notes), this.now.note);
  }

  rests(): readonly Rest[] {
    return this.drafted(Object.values(this.things.rests), this.now.rest);
  }

  private drafted<T extends { readonly id: string }>(before: readonly T[], now: ReadonlyMap<string, T | null>): readonly T[] {
    return now.size === 0 ? before : [...before.filter((one) => !now.has(one.id)), ...[...now.values()].filter((one) => one !== null)];
  }

  /** Changes that change something; notes leave a stack before it goes, and a stack comes before its notes. */
  changes(): Change[] {
    return [...this.was.values()].filter((one) => JSON.stringify(one.before) !== JSON.stringify(one.after));
  }

  onString(string: number): Note[] {
    return this.notes().filter((note) => note.string === string).sort((a, b) => a.tick - b.tick);
  }
}

/** Shortening sets the first point past the end on the end and drops the rest; lengthening moves none. */
export const withLength = (note: Note, ticks: number): Note => {
  const course: [number, number][] = [];
  for (const [at, quarters] of note.course) {
    if (at <= ticks) course.push([at, quarters]);
    else {
      if (course.length === 0 || (course[course.length - 1]?.[0] ?? 0) < ticks) course.push([ticks, quarters]);
      break;
    }
  }
  return { ...note, ticks, course };
};

/** The ticks free on a string from `tick` on, at most `wanted`. */
const free = (draft: Draft, string: number, tick: number, wanted: number, except: string | null): number => {
  const next = draft.onString(string).find((note) => note.tick > tick && note.id !== except);
  return next === undefined ? wanted : Math.min(wanted, next.tick - tick);
};

/** A note removes the rest that it covers; what stands out on either side stays. */
const clearRests = (draft: Draft, tick: number, until: number): void => {
  for (const rest of draft.rests()) {
    if (rest.tick >= until || end(rest) <= tick) continue;
    if (rest.tick < tick) draft.set("rest", rest.id, { ...rest, ticks: tick - rest.tick });
    else draft.set("rest", rest.id, null);
    if (end(rest) > until) {
      const id = rest.tick < tick ? newId() : rest.id;
      draft.set("rest", id, { id, tick: until, ticks: end(rest) - until });
    }
  }
};

/** A note that starts where others start makes a stack with them. */
const joinStack = (draft: Draft, note: Note): Note => {
  const others = draft.notes().filter((other) => other.tick === note.tick && other.id !== note.id);
  if (others.length === 0) return note;
  const id = others.find((other) => other.stack != null)?.stack ?? newId();
  if (!draft.hasStack(id)) draft.set("stack", id, { id, stroke: null, spread_ms: 0 });
  for (const other of others) if (other.stack !== id) draft.set("note", other.id, { ...other, stack: id });
  return { ...note, stack: id };
};

/** Take a note out of its stack; a stack of one ends. */
const leaveStack = (draft: Draft, note: Note): Note => {
  if (note.stack == null) return note;
  const left = draft.notes().filter((other) => other.stack === note.stack && other.id !== note.id);
  if (left.length === 1 && left[0] !== undefined) draft.set("note", left[0].id, { ...left[0], stack: null });
  if (left.length <= 1) draft.set("stack", note.stack, null);
  return { ...note, stack: null };
};

/** `slides`: under a bottleneck a note slides from the one before it, and joining picks it anew. */
export type Where = { readonly tick: number; readonly ticks: number; readonly string: number; readonly fret: number; readonly slides?: boolean };

/** Write a note at a place, as the keys do: `join` makes it a hammer-on, a pull-off or a tie. */
export const writeNote = (things: Things, at: Where, join: boolean): Deed => {
  const draft = new Draft(things);
  const waiting = inOrder(things.notes).find((note) => note.tick === at.tick && note.fret == null && note.sure === "unknown");
  if (waiting !== undefined) return answerUnknown(draft, waiting, at);
  const there = inOrder(things.notes).find((note) => note.tick === at.tick && note.string === at.string);
  if (there !== undefined) {
    draft.set("note", there.id, { ...there, fret: at.fret * 100 });
    return { label: "change a fret", changes: draft.changes(), picked: there.id };
  }
  const before = draft.onString(at.string).filter((note) => note.tick < at.tick).pop();
  if (join && before !== undefined && before.fret === at.fret * 100 && end(before) === at.tick) {
    return tie(draft, before, at.ticks);
  }
  const ticks = free(draft, at.string, at.tick, at.ticks, null);
  if (before !== undefined && end(before) > at.tick) {
    draft.set("note", before.id, withLength(before, at.tick - before.tick));
  }
  clearRests(draft, at.tick, at.tick + ticks);
  let note = plainNote(newId(), at.tick, ticks, at.string, at.fret);
  if (at.slides === true) {
    if (!join && before?.fret != null && end(before) === at.tick && before.fret !== at.fret * 100) note = { ...note, attack: { kind: "slide" } };
  } else if (join && before?.fret != null) {
    note = { ...note, attack: { kind: before.fret < at.fret * 100 ? "hammer-on" : "pull-off" } };
  }
  note = joinStack(draft, note);
  draft.set("note", note.id, note);
  return { label: "write a note", changes: draft.changes(), picked: note.id };
};

/** A note whose place was not known gets it; its length, its onset and its techniques stay. */
const answerUnknown = (draft: Draft, note: Note, at: Where): Deed => {
  const before = draft.onString(at.string).filter((one) => one.tick < at.tick && one.id !== note.id).pop();
  if (before !== undefined && end(before) > at.tick) draft.set("note", before.id, withLength(before, at.tick - before.tick));
  const ticks = free(draft, at.string, at.tick, note.ticks, note.id);
  draft.set("note", note.id, { ...withLength(note, ticks), string: at.string, fret: at.fret * 100, sure: "sure" });
  return { label: "write a note", changes: draft.changes(), picked: note.id };
};

const tie = (draft: Draft, note: Note, by: number): Deed => {
  const ticks = free(draft, note.string, note.tick, note.ticks + by, note.id);
  clearRests(draft, end(note), note.tick + ticks);
  draft.set("note", note.id, { ...note, ticks });
  return { label: "tie", changes: draft.changes(), picked: note.id };
};

export const writeRest = (things: Things, tick: number, ticks: number): Deed => {
  const draft = new Draft(things);
  const starting = inOrder(things.notes).filter((note) => note.tick === tick);
  for (const note of starting) draft.set("note", note.id, null);
  for (const stack of new Set(starting.flatMap((note) => note.stack ?? []))) draft.set("stack", stack, null);
  const next = draft.notes().filter((note) => note.tick > tick).map((note) => note.tick);
  const length = Math.min(ticks, ...next.map((other) => other - tick));
  for (const note of draft.notes()) {
    if (note.tick < tick && end(note) > tick) draft.set("note", note.id, withLength(note, tick - note.tick));
  }
  clearRests(draft, tick, tick + length);
  const id = newId();
  draft.set("rest", id, { id, tick, ticks: length });
  return { label: "write a rest", changes: draft.changes(), picked: null };
};

/** Delete a note; its place is not written then. Questions about it alone go with it. */
export const removeNotes = (things: Things, ids: readonly string[], rests: readonly string[] = []): Deed => {
  const draft = new Draft(things);
  for (const id of ids) {
    const note = draft.note(id);
    if (note === undefined) continue;
    leaveStack(draft, note);
    draft.set("note", id, null);
  }
  for (const id of rests) draft.set("rest", id, null);
  const questions = Object.values(things.questions).flatMap((question) => {
    const notes = question.notes.filter((id) => !ids.includes(id));
    if (notes.length === question.notes.length) return [];
    return [change("question", question.id, question, notes.length === 0 ? null : { ...question, notes })];
  });
  return { label: ids.length > 1 ? `delete ${ids.length} notes` : "delete", changes: [...questions, ...draft.changes()], picked: null };
};

/** Give a note another length, up to the next note of its string. */
export const setLength = (things: Things, note: Note, wanted: number): Deed => {
  const draft = new Draft(things);
  const ticks = free(draft, note.string, note.tick, wanted, note.id);
  if (ticks > note.ticks) clearRests(draft, end(note), note.tick + ticks);
  draft.set("note", note.id, withLength(note, ticks));
  return { label: "length", changes: draft.changes(), picked: note.id };
};

/** Move a note in time or to another place; it leaves its stack, and joins one where others start. */
export const moveNote = (things: Things, note: Note, to: { tick?: number; string?: number; fret?: number }): Deed => {
  const draft = new Draft(things);
  let moved: Note = { ...note, string: to.string ?? note.string, fret: to.fret === undefined ? (note.fret ?? null) : to.fret * 100 };
  if (to.tick !== undefined && to.tick !== note.tick) {
    moved = { ...leaveStack(draft, moved), tick: to.tick };
    draft.set("note", note.id, null);
    moved = joinStack(draft, moved);
  } else draft.set("note", note.id, null);
  const before = draft.onString(moved.string).filter((other) => other.tick < moved.tick).pop();
  if (before !== undefined && end(before) > moved.tick) {
    draft.set("note", before.id, withLength(before, moved.tick - before.tick));
  }
  const ticks = free(draft, moved.string, moved.tick, moved.ticks, note.id);
  clearRests(draft, moved.tick, moved.tick + ticks);
  draft.set("note", note.id, withLength(moved, ticks));
  return { label: to.tick === undefined ? "move to another place" : "move in time", changes: draft.changes(), picked: note.id };
};

/** Notes moved to other places of the same pitch. */
export const takePlaces = (things: Things, label: string, places: readonly { note: string; string: number; fret: number; finger: number | null }[]): Deed => ({
  label,
  changes: places.flatMap((place) => {
    const note = things.notes[place.note];
    if (note === undefined || note.fret == null || (note.string === place.string && note.fret === place.fret)) return [];
    const finger = note.finger == null || place.finger === null || place.finger === 0 ? null : (String(place.finger) as Note["finger"]);
    return [change("note", note.id, note, { ...note, string: place.string, fret: place.fret, finger })];
  }),
  picked: places.length === 1 ? (places[0]?.note ?? null) : null,
});

/** One note otherwise. */
export const reshape = (note: Note, label: string, values: Partial<Note>): Deed => ({
  label,
  changes: [change("note", note.id, note, { ...note, ...values })],
  picked: note.id,
});

/** One act of what is done to several notes: all become what the first becomes, and what already is so stays. */
export const together = (deeds: readonly (Deed | null)[]): Deed | null => {
  const made = deeds.filter((deed) => deed !== null);
  const [lead] = made;
  const [first] = lead?.changes ?? [];
  if (lead === undefined || first === undefined || made.length === 1) return lead ?? null;
  const [was, is] = [first.before, first.after] as readonly Readonly<Record<string, unknown>>[];
  const fields = Object.keys(is ?? {}).filter((field) => JSON.stringify(is?.[field]) !== JSON.stringify(was?.[field]));
  const isSo = (change: Change) => fields.every((field) => JSON.stringify((change.before as Record<string, unknown>)[field]) === JSON.stringify(is?.[field]));
  const changes = made.flatMap((deed) => deed.changes).filter((change) => !isSo(change));
  return { ...lead, label: changes.length > 1 ? `${lead.label}, ${changes.length} notes` : lead.label, changes };
};

/** The second digit of a fret: a note that is joined is hammered on or pulled off by its whole fret. */
export const withSecondDigit = (things: Things, note: Note, fret: number): Deed => {
  const before = inOrder(things.notes).filter((one) => one.string === note.string && one.tick < note.tick).pop();
  const joined = note.attack.kind === "hammer-on" || note.attack.kind === "pull-off";
  const attack: Note["attack"] = joined && before?.fret != null ? { kind: before.fret < fret * 100 ? "hammer-on" : "pull-off" } : note.attack;
  return reshape(note, "change a fret", { fret: fret * 100, attack });
};

const points = (note: Note) => note.course;

/** Bend, and again: wider, through the sizes of the table and back to none. */
export const bend = (note: Note, tables: Tables): Deed => {
  const sizes = tables.bend_sizes.map((size) => size.quarters);
  const now = Math.max(0, ...points(note).map(([, quarters]) => quarters));
  const next = sizes[sizes.indexOf(now) + 1] ?? 0;
  return bendTo(note, now !== 0 && !sizes.includes(now) ? (sizes[0] ?? 0) : next, tables);
};

export const bendTo = (note: Note, quarters: number, tables: Tables): Deed => {
  if (quarters === 0) return reshape(note, "no bend", { course: [] });
  const released = isReleased(note);
  const reach = Math.max(1, Math.min(tables.bend_reached, Math.floor(note.ticks / 2)));
  const course: [number, number][] = [[0, 0], [reach, quarters]];
  if (released) course.push(...letDownPoints(note, reach, quarters));
  return reshape(note, "bend", { course });
};

const isReleased = (note: Note): boolean => {
  const course = points(note);
  return course.length > 2 && course[course.length - 1]?.[1] === 0;
};

/** A release takes the last third. */
const letDownPoints = (note: Note, reach: number, quarters: number): [number, number][] => {
  const leaves = Math.max(reach + 1, note.ticks - Math.floor(note.ticks / 3));
  return leaves >= note.ticks ? [] : [[leaves, quarters], [note.ticks, 0]];
};

/** Let a bend down, or hold it again. */
export const letDown = (note: Note): Deed | null => {
  const course = points(note);
  const top = course[1];
  if (top === undefined || top[1] <= 0) return null;
  if (isReleased(note)) return reshape(note, "hold", { course: course.slice(0, 2) });
  return reshape(note, "let down", { course: [...course.slice(0, 2), ...letDownPoints(note, top[0], top[1])] });
};

/** Shake: from the middle of a bend's hold or a third into the note; again: wide; again: not. */
export const shake = (note: Note): Deed => {
  const reached = points(note)[1]?.[0] ?? Math.floor(note.ticks / 3);
  if (note.vibrato === null || note.vibrato === undefined) {
    return reshape(note, "shake", { vibrato: { start: Math.min(reached, note.ticks), width_cents: 40, rate_hz: 5.5, by: "finger" } });
  }
  if (note.vibrato.width_cents < 60) return reshape(note, "shake wide", { vibrato: { ...note.vibrato, width_cents: 80 } });
  return reshape(note, "no shake", { vibrato: null });
};

export const slideInto = (note: Note): Deed =>
  reshape(note, "slide", { attack: { kind: note.attack.kind === "slide" ? "picked" : "slide" } });

export const toggleDead = (note: Note): Deed => reshape(note, "dead", { dead: !note.dead });

export const toggleSure = (note: Note): Deed =>
  reshape(note, note.sure === "sure" ? "unsure" : "sure", { sure: note.sure === "sure" ? "unsure" : "sure" });

export const join = (things: Things, note: Note): Deed | null => {
  const draft = new Draft(things);
  const before = draft.onString(note.string).filter((other) => other.tick < note.tick).pop();
  if (before === undefined || before.fret == null || note.fret == null) return null;
  if (before.fret === note.fret && end(before) === note.tick) {
    leaveStack(draft, note);
    draft.set("note", note.id, null);
    draft.set("note", before.id, { ...before, ticks: before.ticks + note.ticks });
    return { label: "tie", changes: draft.changes(), picked: before.id };
  }
  const kind = note.attack.kind === "hammer-on" || note.attack.kind === "pull-off" ? "picked" : before.fret < note.fret ? "hammer-on" : "pull-off";
  return reshape(note, kind === "picked" ? "pick" : "join", { attack: { kind } });
};

export const cutPhrase = (from: number, to: number, name: string): Deed => {
  const id = newId();
  return { label: "cut a phrase", changes: [change("phrase", id, null, { id, start: from, end: to, name })], picked: null };
};

export const renamePhrase = (phrase: Phrase, name: string | null): Deed => ({
  label: name === null ? "take a phrase away" : "name a phrase",
  changes: [change("phrase", phrase.id, phrase, name === null ? null : { ...phrase, name })],
  picked: null,
});

/** A question over a span and the notes that begin in it, which are unsure from then on. */
export const askSpan = (span: { readonly from: number; readonly to: number }, notes: readonly Note[], words: string, answers: readonly string[]): Deed => {
  const id = newId();
  const question = { id, start: span.from, end: span.to, notes: notes.map((note) => note.id), words, answers: [...answers], answer: null };
  const unsure = notes.filter((note) => note.sure === "sure").map((note) => change("note", note.id, note, { ...note, sure: "unsure" }));
  return { label: "ask a question", changes: [change("question", id, null, question), ...unsure], picked: notes.length === 1 ? (notes[0]?.id ?? null) : null };
};

export const answerQuestion = (question: Question, answer: string | null): Deed => ({
  label: answer === null ? "open a question again" : "answer a question",
  changes: [change("question", question.id, question, { ...question, answer })],
  picked: null,
});
