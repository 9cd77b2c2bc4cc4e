/**
 * Notes and rests written, moved, joined and removed: values before and after, so that the page shows them at once and sends them
 * as they are. `changes` are what the person did. `follows` is what is drawn of its consequences until the server has worked them
 * out: it may lack some and never contradicts them, which editCases.test.ts checks against cases from the core.
 */
import {
  type Act,
  Draft,
  type Elements,
  type Nothing,
  change,
  end,
  inOrder,
  newId,
  plainNote,
  reshape,
} from "./elements";
import type { Note } from "./types";

/** Shortening sets the first point past the end on the end, drops the rest and cuts what else is laid; lengthening moves none. */
export const withLength = (note: Note, ticks: number): Note => {
  const course: [number, number][] = [];
  for (const [at, quarters] of note.course) {
    if (at <= ticks) course.push([at, quarters]);
    else {
      if (course.length === 0 || (course[course.length - 1]?.[0] ?? 0) < ticks) course.push([ticks, quarters]);
      break;
    }
  }
  const vibrato = note.vibrato == null ? null : { ...note.vibrato, start: Math.min(note.vibrato.start, ticks) };
  const attack =
    note.attack.kind === "slide-in" ? { ...note.attack, ticks: Math.min(note.attack.ticks, ticks) } : note.attack;
  const ending =
    note.ending?.kind === "slide-off"
      ? { ...note.ending, ticks: Math.min(note.ending.ticks, ticks) }
      : (note.ending ?? null);
  return { ...note, ticks, course, vibrato, attack, ending };
};

/** The ticks free on a string from `tick` on, at most `wanted`. */
const free = (draft: Draft, string: number, tick: number, wanted: number, except: string | null): number => {
  const next = draft.onString(string).find((note) => note.tick > tick && note.id !== except);
  return next === undefined ? wanted : Math.min(wanted, next.tick - tick);
};

/** A note removes the rest that it covers; what stands out on either side stays. */
const clearRests = (draft: Draft, tick: number, until: number, kept: string | null = null): void => {
  for (const rest of draft.rests()) {
    if (rest.id === kept || rest.tick >= until || end(rest) <= tick) continue;
    if (rest.tick < tick) draft.follow("rest", rest.id, { ...rest, ticks: tick - rest.tick });
    else draft.follow("rest", rest.id, null);
    if (end(rest) > until) {
      const id = rest.tick < tick ? newId() : rest.id;
      draft.follow("rest", id, { id, tick: until, ticks: end(rest) - until });
    }
  }
};

/** A note that starts where others start makes a stack with them. */
const joinStack = (draft: Draft, note: Note): void => {
  const others = draft
    .notes()
    .filter((other) => other.tick === note.tick && other.id !== note.id)
    .sort((a, b) => a.string - b.string);
  if (others.length === 0) return;
  const id = others.find((other) => other.stack != null && draft.hasStack(other.stack))?.stack ?? newId();
  if (!draft.hasStack(id)) draft.follow("stack", id, { id, stroke: null, spread_ms: 0 });
  for (const one of [note, ...others]) if (one.stack !== id) draft.follow("note", one.id, { ...one, stack: id });
};

/** The stack of a note that went: a stack of one ends. */
const endStack = (draft: Draft, stack: string | null | undefined): void => {
  if (stack == null || !draft.hasStack(stack)) return;
  const left = draft.notes().filter((other) => other.stack === stack);
  if (left.length > 1) return;
  for (const one of left) draft.follow("note", one.id, { ...one, stack: null });
  draft.follow("stack", stack, null);
};

/** A note that comes to stand on a string shortens the one that sounds there. */
const cutBefore = (draft: Draft, note: Note): void => {
  const before = draft
    .onString(note.string)
    .filter((other) => other.tick < note.tick && other.id !== note.id)
    .pop();
  if (before !== undefined && end(before) > note.tick)
    draft.follow("note", before.id, withLength(before, note.tick - before.tick));
};

/** `slides`: under a bottleneck a note slides from the one before it, and joining picks it anew. */
export type Where = {
  readonly tick: number;
  readonly ticks: number;
  readonly string: number;
  readonly fret: number;
  readonly slides?: boolean;
};

/** Write a note at a place, as the keys do: `join` makes it a hammer-on, a pull-off or a tie. */
export const writeNote = (elements: Elements, at: Where, join: boolean): Act => {
  const draft = new Draft(elements);
  const waiting = inOrder(elements.notes).find(
    (note) => note.tick === at.tick && note.fret == null && note.sure === "unknown",
  );
  if (waiting !== undefined) return answerUnknown(draft, waiting, at);
  const there = inOrder(elements.notes).find((note) => note.tick === at.tick && note.string === at.string);
  if (there !== undefined) {
    draft.set("note", there.id, { ...there, fret: at.fret * 100 });
    return draft.act("change a fret", there.id);
  }
  const before = draft
    .onString(at.string)
    .filter((note) => note.tick < at.tick)
    .pop();
  if (join && before !== undefined && before.fret === at.fret * 100 && end(before) === at.tick) {
    return tie(draft, before, at.ticks);
  }
  let note = plainNote(newId(), at.tick, free(draft, at.string, at.tick, at.ticks, null), at.string, at.fret);
  if (at.slides === true) {
    if (!join && before?.fret != null && end(before) === at.tick && before.fret !== at.fret * 100)
      note = { ...note, attack: { kind: "slide" } };
  } else if (join && before?.fret != null) note = { ...note, attack: joinedBy(before.fret, at.fret * 100) };
  draft.set("note", note.id, note);
  cutBefore(draft, note);
  clearRests(draft, note.tick, end(note));
  joinStack(draft, note);
  return draft.act("write a note", note.id);
};

/** Up is a hammer-on, down a pull-off; the same fret is struck again. */
const joinedBy = (from: number, to: number): Note["attack"] => ({
  kind: from < to ? "hammer-on" : from > to ? "pull-off" : "picked",
});

/** A note whose place was not known gets it; its length, its onset and its techniques stay. */
const answerUnknown = (draft: Draft, note: Note, at: Where): Act => {
  const ticks = free(draft, at.string, at.tick, note.ticks, note.id);
  const placed: Note = { ...withLength(note, ticks), string: at.string, fret: at.fret * 100, sure: "sure" };
  draft.set("note", note.id, placed);
  cutBefore(draft, placed);
  return draft.act("write a note", note.id);
};

const tie = (draft: Draft, note: Note, by: number): Act => {
  const ticks = free(draft, note.string, note.tick, note.ticks + by, note.id);
  draft.set("note", note.id, { ...note, ticks });
  clearRests(draft, note.tick, note.tick + ticks);
  return draft.act("tie", note.id);
};

/** A rest takes the notes that start with it, cuts what sounds, and ends at the next note. */
export const writeRest = (elements: Elements, tick: number, ticks: number): Act => {
  const draft = new Draft(elements);
  const next = draft
    .notes()
    .filter((note) => note.tick > tick)
    .map((note) => note.tick);
  const rest = { id: newId(), tick, ticks: Math.min(ticks, ...next.map((other) => other - tick)) };
  draft.set("rest", rest.id, rest);
  const starting = inOrder(elements.notes).filter((note) => note.tick === tick);
  for (const note of starting) draft.follow("note", note.id, null);
  for (const note of draft.notes()) {
    if (note.tick < tick && end(note) > tick) draft.follow("note", note.id, withLength(note, tick - note.tick));
  }
  clearRests(draft, tick, end(rest), rest.id);
  leaveBehind(draft, elements, starting);
  return draft.act("write a rest", null);
};

/** Delete notes and rests; their place is not written then. A question keeps its place. */
export const removeNotes = (elements: Elements, ids: readonly string[], rests: readonly string[] = []): Act => {
  const draft = new Draft(elements);
  const gone = ids.flatMap((id) => elements.notes[id] ?? []);
  for (const note of gone) draft.set("note", note.id, null);
  for (const id of rests) draft.set("rest", id, null);
  leaveBehind(draft, elements, gone);
  return draft.act(ids.length > 1 ? `delete ${ids.length} notes` : "delete", null);
};

/** What notes leave that go: their stacks end, questions no longer name them. */
const leaveBehind = (draft: Draft, elements: Elements, gone: readonly Note[]): void => {
  for (const stack of new Set(gone.map((note) => note.stack))) endStack(draft, stack);
  const ids = new Set(gone.map((note) => note.id));
  for (const question of Object.values(elements.questions)) {
    const notes = question.notes.filter((id) => !ids.has(id));
    if (notes.length < question.notes.length) draft.follow("question", question.id, { ...question, notes });
  }
};

/** Give a note another length, up to the next note of its string. */
export const setLength = (elements: Elements, note: Note, wanted: number): Act => {
  const draft = new Draft(elements);
  const ticks = free(draft, note.string, note.tick, wanted, note.id);
  draft.set("note", note.id, withLength(note, ticks));
  clearRests(draft, note.tick, note.tick + ticks);
  return draft.act("length", note.id);
};

/** Move a note in time: it stops at its neighbours and at the strip's ends, leaves its stack, and joins one where others start. */
export const moveInTime = (
  elements: Elements,
  note: Note,
  tick: number,
  [first, last]: readonly [number, number],
): Act | Nothing => {
  const draft = new Draft(elements);
  const others = draft.onString(note.string).filter((other) => other.id !== note.id);
  let to = Math.min(Math.max(tick, Math.min(first, note.tick)), Math.max(note.tick, last - 1));
  const over = others.filter((other) => other.tick < to + note.ticks && to < end(other));
  if (over.length > 0) {
    to =
      to < note.tick
        ? Math.min(note.tick, Math.max(...over.map(end)))
        : Math.max(note.tick, Math.min(...over.map((other) => other.tick)) - note.ticks);
  }
  if (to === note.tick) {
    return {
      nothing:
        tick < note.tick
          ? note.tick <= first
            ? "The strip begins here."
            : "The note before it on this string ends here."
          : note.tick >= last - 1
            ? "The strip ends here."
            : "The next note on this string starts here.",
    };
  }
  const moved = { ...note, tick: to };
  draft.set("note", note.id, moved);
  clearRests(draft, to, end(moved));
  const together =
    note.stack != null && draft.notes().some((other) => other.stack === note.stack && other.id !== note.id);
  const alone = together ? { ...moved, stack: null } : moved;
  if (together) draft.follow("note", note.id, alone);
  endStack(draft, note.stack);
  joinStack(draft, alone);
  return draft.act("move in time", note.id);
};

/** Move a note up or down its string: it stops at the nut and at the last fret. */
export const moveFret = (note: Note, by: number, frets: number): Act | Nothing => {
  if (note.fret == null) return { nothing: "This note has no fret to move." };
  const fret = Math.min(Math.max(0, note.fret + Math.round(by * 100)), Math.max(note.fret, frets * 100));
  if (fret === note.fret)
    return { nothing: by < 0 ? "The string is open here: there is nothing lower." : `Fret ${frets} is the last one.` };
  return reshape(note, "move to another place", { fret });
};

/** Notes moved to other places of the same pitch. */
export const takePlaces = (
  elements: Elements,
  label: string,
  places: readonly { note: string; string: number; fret: number; finger: number | null }[],
): Act => ({
  label,
  changes: places.flatMap((place) => {
    const note = elements.notes[place.note];
    if (note === undefined || note.fret == null || (note.string === place.string && note.fret === place.fret))
      return [];
    const finger =
      note.finger == null || place.finger === null || place.finger === 0
        ? null
        : (String(place.finger) as Note["finger"]);
    return [change("note", note.id, note, { ...note, string: place.string, fret: place.fret, finger })];
  }),
  picked: places.length === 1 ? (places[0]?.note ?? null) : null,
});

/** The second digit of a fret: a note that is joined is hammered on or pulled off by its whole fret. */
export const withSecondDigit = (elements: Elements, note: Note, fret: number): Act => {
  const before = inOrder(elements.notes)
    .filter((one) => one.string === note.string && one.tick < note.tick)
    .pop();
  const joined = note.attack.kind === "hammer-on" || note.attack.kind === "pull-off";
  const attack: Note["attack"] = joined && before?.fret != null ? joinedBy(before.fret, fret * 100) : note.attack;
  return reshape(note, "change a fret", { fret: fret * 100, attack });
};

/** Join a note to the one before it on its string: a hammer-on, a pull-off, a tie on the same fret; again: picked. */
export const join = (elements: Elements, note: Note): Act | Nothing => {
  const draft = new Draft(elements);
  const before = draft
    .onString(note.string)
    .filter((other) => other.tick < note.tick)
    .pop();
  if (before === undefined) return { nothing: "There is no note before this one on its string to join it to." };
  if (before.fret == null || note.fret == null) return { nothing: "A note without a fret cannot be joined." };
  if (before.fret === note.fret) {
    if (end(before) !== note.tick)
      return { nothing: "The note before it is the same fret and ends earlier: there is nothing to join." };
    draft.set("note", note.id, null);
    draft.set("note", before.id, { ...before, ticks: before.ticks + note.ticks });
    leaveBehind(draft, elements, [note]);
    return draft.act("tie", before.id);
  }
  const joined = note.attack.kind === "hammer-on" || note.attack.kind === "pull-off";
  return reshape(note, joined ? "pick" : "join", {
    attack: joined ? { kind: "picked" } : joinedBy(before.fret, note.fret),
  });
};
