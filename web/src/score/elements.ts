/** The elements of a solo, and an act of the person upon them: what it changes, and what is drawn of its consequences. */
import type {
  Change,
  Choice,
  Dynamic,
  Kind,
  Note,
  Phrase,
  PlanEntry,
  Question,
  Remark,
  Rest,
  Stack,
  Swell,
} from "./types";

export type Elements = {
  readonly notes: Readonly<Record<string, Note>>;
  readonly rests: Readonly<Record<string, Rest>>;
  readonly stacks: Readonly<Record<string, Stack>>;
  readonly phrases: Readonly<Record<string, Phrase>>;
  readonly questions: Readonly<Record<string, Question>>;
  readonly dynamics: Readonly<Record<string, Dynamic>>;
  readonly swells: Readonly<Record<string, Swell>>;
  readonly choices: Readonly<Record<string, Choice>>;
  readonly remarks: Readonly<Record<string, Remark>>;
  readonly plan: Readonly<Record<string, PlanEntry>>;
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
export type Act = {
  readonly label: string;
  readonly changes: Change[];
  readonly follows?: Change[];
  readonly picked: string | null;
};
/** Why a key does nothing here, in a sentence. */
export type Nothing = { readonly nothing: string };

export const end = (element: { tick: number; ticks: number }): number => element.tick + element.ticks;
export const change = (kind: Kind, id: string, before: unknown, after: unknown): Change => ({
  kind,
  id,
  before,
  after,
});

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
export class Draft {
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

  /** The act: only changes that change something. */
  act(label: string, picked: string | null): Act {
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

/** One note otherwise. */
export const reshape = (note: Note, label: string, values: Partial<Note>): Act => ({
  label,
  changes: [change("note", note.id, note, { ...note, ...values })],
  picked: note.id,
});

/** One act of what is done to several notes: all become what the first becomes, and what already is so stays. */
export const together = (acts: readonly (Act | Nothing | null)[]): Act | Nothing | null => {
  const made = acts.filter((act) => act !== null && "changes" in act);
  if (made.length === 0) return acts.find((act) => act !== null) ?? null;
  const [lead] = made;
  const [first] = lead?.changes ?? [];
  if (lead === undefined || first === undefined || made.length === 1) return lead ?? null;
  const [was, is] = [first.before, first.after] as readonly Readonly<Record<string, unknown>>[];
  const fields = Object.keys(is ?? {}).filter((field) => JSON.stringify(is?.[field]) !== JSON.stringify(was?.[field]));
  const isSo = (change: Change) =>
    fields.every(
      (field) => JSON.stringify((change.before as Record<string, unknown>)[field]) === JSON.stringify(is?.[field]),
    );
  const changes = made.flatMap((act) => act.changes).filter((change) => !isSo(change));
  return { ...lead, label: changes.length > 1 ? `${lead.label}, ${changes.length} notes` : lead.label, changes };
};
