/**
 * Edits built from keys: values before and after, so that the page shows them at once and sends them as they are.
 * `changes` are what the person did. `follows` is what is drawn of its consequences until the server has worked them
 * out: it may lack some and never contradicts them, which editCases.test.ts checks against cases from the core.
 */
import type { Change, Dynamic, Kind, Note, Phrase, Question, Rest, Stack, Swell, Tables } from "./types";

export type Elements = {
  readonly notes: Readonly<Record<string, Note>>;
  readonly rests: Readonly<Record<string, Rest>>;
  readonly stacks: Readonly<Record<string, Stack>>;
  readonly phrases: Readonly<Record<string, Phrase>>;
  readonly questions: Readonly<Record<string, Question>>;
  readonly dynamics: Readonly<Record<string, Dynamic>>;
  readonly swells: Readonly<Record<string, Swell>>;
};

const ordered = new WeakMap<Elements["notes"], readonly Note[]>();
/** Notes in the order of time, strings from the thinnest within; found once for as long as no note changes. */
export const inOrder = (notes: Elements["notes"]): readonly Note[] => {
  const known = ordered.get(notes);
  if (known !== undefined) return known;
  const found = Object.values(notes).sort((a, b) => a.tick - b.tick || a.string - b.string);
  ordered.set(notes, found);
  return found;
};

/** What a key would do: a label for the history, the changes, what follows, and the note that is in hand afterwards. */
export type Deed = {
  readonly label: string;
  readonly changes: Change[];
  readonly follows?: Change[];
  readonly picked: string | null;
};
/** Why a key does nothing here, in a sentence. */
export type Nothing = { readonly nothing: string };

const end = (element: { tick: number; ticks: number }): number => element.tick + element.ticks;
const change = (kind: Kind, id: string, before: unknown, after: unknown): Change => ({ kind, id, before, after });

export const newId = (): string => crypto.randomUUID();

export const plainNote = (id: string, tick: number, ticks: number, string: number, fret: number): Note => ({
  id,
  tick,
  ticks,
  string,
  fret: fret * 100,
  attack: { kind: "picked" },
  course: [],
  vibrato: null,
  trill: null,
  ending: null,
  dead: false,
  ghost: false,
  accent: false,
  palm_mute: false,
  tremolo: null,
  rake: null,
  finger: null,
  pick: null,
  stack: null,
  sure: "sure",
  heard: null,
});

type Laid = { note: Note; rest: Rest; stack: Stack; phrase: Phrase; question: Question };
type LaidKind = keyof Laid;
const GROUPS = { note: "notes", rest: "rests", stack: "stacks", phrase: "phrases", question: "questions" } as const;

/** Collects what the person does and what follows from it, each element once: from what it was to what it becomes. */
class Draft {
  private readonly did = new Map<string, Change>();
  private readonly followed = new Map<string, Change>();
  private readonly now: { [K in LaidKind]: Map<string, Laid[K] | null> } = {
    note: new Map(),
    rest: new Map(),
    stack: new Map(),
    phrase: new Map(),
    question: new Map(),
  };

  constructor(private readonly elements: Elements) {}

  /** What the person does. */
  set<K extends LaidKind>(kind: K, id: string, after: Laid[K] | null): void {
    this.now[kind].set(id, after);
    this.did.set(`${kind} ${id}`, change(kind, id, this.elements[GROUPS[kind]][id] ?? null, after));
  }

  /** What follows from it. */
  follow<K extends LaidKind>(kind: K, id: string, after: Laid[K] | null): void {
    const key = `${kind} ${id}`;
    const did = this.did.get(key);
    const before =
      this.followed.get(key)?.before ?? (did === undefined ? (this.elements[GROUPS[kind]][id] ?? null) : did.after);
    this.now[kind].set(id, after);
    this.followed.set(key, change(kind, id, before, after));
  }

  note(id: string): Note | undefined {
    const drafted = this.now.note.get(id);
    return drafted === undefined ? this.elements.notes[id] : (drafted ?? undefined);
  }

  hasStack(id: string): boolean {
    const drafted = this.now.stack.get(id);
    return drafted === undefined ? this.elements.stacks[id] !== undefined : drafted !== null;
  }

  notes(): readonly Note[] {
    return this.drafted(inOrder(this.elements.notes), this.now.note);
  }

  rests(): readonly Rest[] {
    return this.drafted(Object.values(this.elements.rests), this.now.rest);
  }

  private drafted<T extends { readonly id: string }>(
    before: readonly T[],
    now: ReadonlyMap<string, T | null>,
  ): readonly T[] {
    return now.size === 0
      ? before
      : [...before.filter((one) => !now.has(one.id)), ...[...now.values()].filter((one) => one !== null)];
  }

  /** The deed: only changes that change something. */
  deed(label: string, picked: string | null): Deed {
    const real = (changes: Iterable<Change>) =>
      [...changes].filter((one) => JSON.stringify(one.before) !== JSON.stringify(one.after));
    return { label, changes: real(this.did.values()), follows: real(this.followed.values()), picked };
  }

  onString(string: number): Note[] {
    return this.notes()
      .filter((note) => note.string === string)
      .sort((a, b) => a.tick - b.tick);
  }
}

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
export const writeNote = (elements: Elements, at: Where, join: boolean): Deed => {
  const draft = new Draft(elements);
  const waiting = inOrder(elements.notes).find(
    (note) => note.tick === at.tick && note.fret == null && note.sure === "unknown",
  );
  if (waiting !== undefined) return answerUnknown(draft, waiting, at);
  const there = inOrder(elements.notes).find((note) => note.tick === at.tick && note.string === at.string);
  if (there !== undefined) {
    draft.set("note", there.id, { ...there, fret: at.fret * 100 });
    return draft.deed("change a fret", there.id);
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
  return draft.deed("write a note", note.id);
};

/** Up is a hammer-on, down a pull-off; the same fret is struck again. */
const joinedBy = (from: number, to: number): Note["attack"] => ({
  kind: from < to ? "hammer-on" : from > to ? "pull-off" : "picked",
});

/** A note whose place was not known gets it; its length, its onset and its techniques stay. */
const answerUnknown = (draft: Draft, note: Note, at: Where): Deed => {
  const ticks = free(draft, at.string, at.tick, note.ticks, note.id);
  const placed: Note = { ...withLength(note, ticks), string: at.string, fret: at.fret * 100, sure: "sure" };
  draft.set("note", note.id, placed);
  cutBefore(draft, placed);
  return draft.deed("write a note", note.id);
};

const tie = (draft: Draft, note: Note, by: number): Deed => {
  const ticks = free(draft, note.string, note.tick, note.ticks + by, note.id);
  draft.set("note", note.id, { ...note, ticks });
  clearRests(draft, note.tick, note.tick + ticks);
  return draft.deed("tie", note.id);
};

/** A rest takes the notes that start with it, cuts what sounds, and ends at the next note. */
export const writeRest = (elements: Elements, tick: number, ticks: number): Deed => {
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
  return draft.deed("write a rest", null);
};

/** Delete notes and rests; their place is not written then. A question keeps its place. */
export const removeNotes = (elements: Elements, ids: readonly string[], rests: readonly string[] = []): Deed => {
  const draft = new Draft(elements);
  const gone = ids.flatMap((id) => elements.notes[id] ?? []);
  for (const note of gone) draft.set("note", note.id, null);
  for (const id of rests) draft.set("rest", id, null);
  leaveBehind(draft, elements, gone);
  return draft.deed(ids.length > 1 ? `delete ${ids.length} notes` : "delete", null);
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
export const setLength = (elements: Elements, note: Note, wanted: number): Deed => {
  const draft = new Draft(elements);
  const ticks = free(draft, note.string, note.tick, wanted, note.id);
  draft.set("note", note.id, withLength(note, ticks));
  clearRests(draft, note.tick, note.tick + ticks);
  return draft.deed("length", note.id);
};

/** Move a note in time: it stops at its neighbours and at the strip's ends, leaves its stack, and joins one where others start. */
export const moveInTime = (
  elements: Elements,
  note: Note,
  tick: number,
  [first, last]: readonly [number, number],
): Deed | Nothing => {
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
  return draft.deed("move in time", note.id);
};

/** Move a note up or down its string: it stops at the nut and at the last fret. */
export const moveFret = (note: Note, by: number, frets: number): Deed | Nothing => {
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
): Deed => ({
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

/** One note otherwise. */
export const reshape = (note: Note, label: string, values: Partial<Note>): Deed => ({
  label,
  changes: [change("note", note.id, note, { ...note, ...values })],
  picked: note.id,
});

/** One act of what is done to several notes: all become what the first becomes, and what already is so stays. */
export const together = (deeds: readonly (Deed | Nothing | null)[]): Deed | Nothing | null => {
  const made = deeds.filter((deed) => deed !== null && "changes" in deed);
  if (made.length === 0) return deeds.find((deed) => deed !== null) ?? null;
  const [lead] = made;
  const [first] = lead?.changes ?? [];
  if (lead === undefined || first === undefined || made.length === 1) return lead ?? null;
  const [was, is] = [first.before, first.after] as readonly Readonly<Record<string, unknown>>[];
  const fields = Object.keys(is ?? {}).filter((field) => JSON.stringify(is?.[field]) !== JSON.stringify(was?.[field]));
  const isSo = (change: Change) =>
    fields.every(
      (field) => JSON.stringify((change.before as Record<string, unknown>)[field]) === JSON.stringify(is?.[field]),
    );
  const changes = made.flatMap((deed) => deed.changes).filter((change) => !isSo(change));
  return { ...lead, label: changes.length > 1 ? `${lead.label}, ${changes.length} notes` : lead.label, changes };
};

/** The second digit of a fret: a note that is joined is hammered on or pulled off by its whole fret. */
export const withSecondDigit = (elements: Elements, note: Note, fret: number): Deed => {
  const before = inOrder(elements.notes)
    .filter((one) => one.string === note.string && one.tick < note.tick)
    .pop();
  const joined = note.attack.kind === "hammer-on" || note.attack.kind === "pull-off";
  const attack: Note["attack"] = joined && before?.fret != null ? joinedBy(before.fret, fret * 100) : note.attack;
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
  const course: [number, number][] = [
    [0, 0],
    [reach, quarters],
  ];
  if (released) course.push(...releasePoints(note, reach, quarters));
  return reshape(note, "bend", { course });
};

const isReleased = (note: Note): boolean => {
  const course = points(note);
  return course.length > 2 && course[course.length - 1]?.[1] === 0;
};

/** A release takes the last third. */
const releasePoints = (note: Note, reach: number, quarters: number): [number, number][] => {
  const leaves = Math.max(reach + 1, note.ticks - Math.floor(note.ticks / 3));
  return leaves >= note.ticks
    ? []
    : [
        [leaves, quarters],
        [note.ticks, 0],
      ];
};

/** Let a bend down, or hold it again. */
export const release = (note: Note): Deed | Nothing => {
  const course = points(note);
  const top = course[1];
  if (top === undefined || top[1] <= 0) return { nothing: "There is no bend to release: bend the note first." };
  if (isReleased(note)) return reshape(note, "hold", { course: course.slice(0, 2) });
  return reshape(note, "release", { course: [...course.slice(0, 2), ...releasePoints(note, top[0], top[1])] });
};

/** Shake: from the middle of a bend's hold or a third into the note; again: wide; again: not. */
export const vibrato = (note: Note): Deed => {
  const reached = points(note)[1]?.[0] ?? Math.floor(note.ticks / 3);
  if (note.vibrato === null || note.vibrato === undefined) {
    return reshape(note, "vibrato", {
      vibrato: { start: Math.min(reached, note.ticks), width_cents: 40, rate_hz: 5.5, by: "finger" },
    });
  }
  if (note.vibrato.width_cents < 60)
    return reshape(note, "wide vibrato", { vibrato: { ...note.vibrato, width_cents: 80 } });
  return reshape(note, "no vibrato", { vibrato: null });
};

/** Slide into a note from the one before it on its string; again: picked. */
export const slideInto = (elements: Elements, note: Note): Deed | Nothing => {
  if (note.attack.kind === "slide") return reshape(note, "pick", { attack: { kind: "picked" } });
  const before = inOrder(elements.notes)
    .filter((one) => one.string === note.string && one.tick < note.tick)
    .pop();
  if (before === undefined) return { nothing: "There is no note before this one on its string to slide from." };
  if (before.fret != null && before.fret === note.fret)
    return { nothing: "The note before it is on the same fret: there is nothing to slide." };
  return reshape(note, "slide", { attack: { kind: "slide" } });
};

export const toggleDead = (note: Note): Deed => reshape(note, "dead", { dead: !note.dead });

export const toggleSure = (note: Note): Deed =>
  reshape(note, note.sure === "sure" ? "unsure" : "sure", { sure: note.sure === "sure" ? "unsure" : "sure" });

/** Join a note to the one before it on its string: a hammer-on, a pull-off, a tie on the same fret; again: picked. */
export const join = (elements: Elements, note: Note): Deed | Nothing => {
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
    return draft.deed("tie", before.id);
  }
  const joined = note.attack.kind === "hammer-on" || note.attack.kind === "pull-off";
  return reshape(note, joined ? "pick" : "join", {
    attack: joined ? { kind: "picked" } : joinedBy(before.fret, note.fret),
  });
};

/** A phrase over a span; older ones that it overlaps are trimmed, as the server will say. */
export const cutPhrase = (elements: Elements, from: number, to: number, name: string): Deed => {
  const draft = new Draft(elements);
  const id = newId();
  draft.set("phrase", id, { id, start: from, end: to, name });
  for (const old of Object.values(elements.phrases)) {
    if (old.end <= from || old.start >= to) continue;
    draft.follow(
      "phrase",
      old.id,
      old.start < from ? { ...old, end: from } : old.end > to ? { ...old, start: to } : null,
    );
  }
  return draft.deed("cut a phrase", null);
};

export const renamePhrase = (phrase: Phrase, name: string | null): Deed => ({
  label: name === null ? "take a phrase away" : "name a phrase",
  changes: [change("phrase", phrase.id, phrase, name === null ? null : { ...phrase, name })],
  picked: null,
});

/** A question over a span and the notes that begin in it, which are unsure from then on. */
export const askSpan = (
  span: { readonly from: number; readonly to: number },
  notes: readonly Note[],
  words: string,
  answers: readonly string[],
): Deed => {
  const id = newId();
  const question = {
    id,
    start: span.from,
    end: span.to,
    notes: notes.map((note) => note.id),
    words,
    answers: [...answers],
    answer: null,
  };
  const unsure = notes
    .filter((note) => note.sure === "sure")
    .map((note) => change("note", note.id, note, { ...note, sure: "unsure" }));
  return {
    label: "ask a question",
    changes: [change("question", id, null, question), ...unsure],
    picked: notes.length === 1 ? (notes[0]?.id ?? null) : null,
  };
};

export const answerQuestion = (question: Question, answer: string | null): Deed => ({
  label: answer === null ? "open a question again" : "answer a question",
  changes: [change("question", question.id, question, { ...question, answer })],
  picked: null,
});
