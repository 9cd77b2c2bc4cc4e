/**
 * The page's copy of a solo: what the server has stored, as far as it was told, and the edits made here that it has not
 * answered. Every answer, whenever it arrives, goes through here, and none that is older than what is known is taken.
 *
 * Plain functions of plain values; sending.ts does the asking.
 */
import { newId, type Elements } from "./elements";
import type { Answer, Bench, Change, Edit, NoteView } from "./types";

export type Versions = Readonly<Record<string, number>>;
export type Copy = {
  readonly bench: Bench; // as stored at `versions`
  readonly elements: Elements; // as stored at `versions`
  readonly views: Readonly<Record<string, NoteView>>;
  readonly versions: Versions;
  readonly waiting: readonly Edit[]; // made here and not answered, in their order
  readonly heard: Versions; // the newest versions that the server spoke of
};

const GROUPS = {
  note: "notes",
  rest: "rests",
  stack: "stacks",
  phrase: "phrases",
  question: "questions",
  dynamic: "dynamics",
  swell: "swells",
  choice: "choices",
  remark: "remarks",
  plan: "plan",
} as const;

/** Elements after changes; what is not drawn (choices, settings) is passed over. */
export const applied = (elements: Elements, changes: readonly Change[]): Elements => {
  if (changes.length === 0) return elements;
  const next = { ...elements } as Record<string, Record<string, unknown>>;
  const copied = new Set<string>();
  for (const { kind, id, after } of changes) {
    if (!(kind in GROUPS)) continue;
    const name = GROUPS[kind as keyof typeof GROUPS];
    if (!copied.has(name)) next[name] = { ...next[name] };
    copied.add(name);
    const group = next[name] as Record<string, unknown>;
    if (after === null || after === undefined) delete group[id];
    else group[id] = after;
  }
  return next as unknown as Elements;
};

/** The present value of what a change is about. */
export const valueOf = (elements: Elements, change: Change): unknown =>
  change.kind in GROUPS ? (elements[GROUPS[change.kind as keyof typeof GROUPS]][change.id] ?? null) : undefined;

const nameOf = (change: Change): string => `${change.kind} ${change.id}`;

export const wholeOf = (edits: readonly Edit[]): Change[] =>
  edits.flatMap((edit) => [...edit.changes, ...edit.follows]);

const byId = <T extends { id: string }>(list: readonly T[]): Record<string, T> =>
  Object.fromEntries(list.map((one) => [one.id, one]));

const thingsOf = ({ solo }: Bench): Elements => ({
  notes: byId(solo.notes),
  rests: byId(solo.rests),
  stacks: byId(solo.stacks),
  phrases: byId(solo.phrases),
  questions: byId(solo.questions),
  dynamics: byId(solo.dynamics),
  swells: byId(solo.swells),
  choices: byId(solo.choices),
  remarks: byId(solo.remarks),
  plan: byId(solo.plan),
});

const older = (versions: Versions, known: Versions): boolean =>
  Object.entries(versions).some(([document, version]) => version < (known[document] ?? version));
const newest = (one: Versions, other: Versions): Versions =>
  Object.fromEntries(
    [...new Set([...Object.keys(one), ...Object.keys(other)])].map((document) => [
      document,
      Math.max(one[document] ?? 0, other[document] ?? 0),
    ]),
  );

/** A solo that was asked for whole. Null when more than that is known by now: it is to be asked for again. */
export const opened = (before: Copy | null, bench: Bench, kept: readonly Edit[]): Copy | null => {
  const same = before?.bench.solo_id === bench.solo_id ? before : null;
  if (same !== null && older(bench.versions, same.versions)) return null;
  const known = new Set(kept.map((edit) => edit.id));
  const waiting = [...kept, ...(same?.waiting ?? []).filter((edit) => !known.has(edit.id))];
  return {
    bench,
    elements: thingsOf(bench),
    views: bench.views,
    versions: bench.versions,
    waiting,
    heard: newest(same?.heard ?? {}, bench.versions),
  };
};

export const made = (copy: Copy, edit: Edit): Copy => ({ ...copy, waiting: [...copy.waiting, edit] });

/** An answer to edits that were `sent`, to an undo or to another request. Of an answer with a gap before it only the news is kept, so that the page asks again. */
export const answered = (copy: Copy, answer: Answer, sent: ReadonlySet<string> = new Set()): Copy => {
  const heard = newest(copy.heard, answer.versions);
  if (Object.entries(answer.since).some(([document, version]) => version > (copy.versions[document] ?? version)))
    return { ...copy, heard };
  if (older(answer.versions, copy.versions))
    return { ...copy, waiting: rebased(copy.waiting, copy.elements, copy.elements, sent), heard };
  const { bench } = copy;
  const edits = unknown(copy.versions, answer);
  const mine = edits.filter((edit) => edit.document === bench.solo_id);
  const elements = applied(copy.elements, wholeOf(mine));
  const own = new Set(copy.waiting.map((edit) => edit.id));
  const others = new Set(
    mine
      .filter((edit) => !own.has(edit.id))
      .flatMap((edit) => edit.changes)
      .map(nameOf),
  );
  const views: Record<string, NoteView> = answer.whole ? {} : { ...copy.views };
  for (const [id, mark] of Object.entries(answer.views)) {
    if (mark === null) delete views[id];
    else views[id] = mark;
  }
  return {
    bench: {
      ...settingsAfter(bench, edits),
      history: answer.history,
      violations: answer.violations,
      progress: answer.progress,
      strip: answer.strip ?? bench.strip,
      tables: answer.tables ?? bench.tables,
    },
    elements,
    views,
    versions: { ...copy.versions, ...answer.versions },
    waiting: rebased(copy.waiting, copy.elements, elements, sent, others),
    heard,
  };
};

/**
 * Waiting edits without those that are gone, laid over what is so where the page could not know better: what follows from an
 * edit is the core's, and what was drawn of it may have lacked some. What others changed themselves is left to be judged.
 */
const rebased = (
  waiting: readonly Edit[],
  stood: Elements,
  so: Elements,
  gone: ReadonlySet<string>,
  others: ReadonlySet<string> = new Set(),
): readonly Edit[] => {
  let [seen, now] = [stood, so];
  return waiting.flatMap((edit) => {
    if (gone.has(edit.id)) {
      seen = applied(seen, wholeOf([edit]));
      return [];
    }
    const over = (change: Change): Change => {
      const [was, is] = [valueOf(seen, change), valueOf(now, change)];
      seen = applied(seen, [change]);
      const laid =
        others.has(nameOf(change)) || is === undefined || equal(was, is) || !equal(change.before ?? null, was)
          ? change
          : laidOver(change, is);
      now = applied(now, [laid]);
      return laid;
    };
    const next = { ...edit, changes: edit.changes.map(over), follows: edit.follows.map(over) };
    return [equal(next, edit) ? edit : next];
  });
};

/** A change of the same fields over another value. */
const laidOver = (change: Change, is: unknown): Change => {
  const [before, after] = [change.before, change.after] as readonly unknown[];
  if (after == null || before == null || is == null) return { ...change, before: is };
  const was = before as Readonly<Record<string, unknown>>;
  const changed = Object.entries(after as Record<string, unknown>).filter(([name, value]) => !equal(value, was[name]));
  return { ...change, before: is, after: { ...is, ...Object.fromEntries(changed) } };
};

/** The edits of an answer that are newer than what is known: each makes one version of its document, in their order. */
const unknown = (known: Versions, { since, edits }: Answer): Edit[] => {
  const at: Record<string, number> = { ...since };
  return edits.filter((edit) => {
    const version = (at[edit.document] ?? 0) + 1;
    at[edit.document] = version;
    return version > (known[edit.document] ?? Infinity);
  });
};

const settingsAfter = (bench: Bench, edits: readonly Edit[]): Bench => {
  if (edits.length === 0) return bench;
  const settings: Record<string, unknown> = { ...bench.solo.settings };
  const ground: Record<string, unknown> = { ...bench.ground.settings };
  const anchors = new Map(bench.ground.anchors.map((anchor) => [anchor.id, anchor]));
  let moved = false;
  for (const edit of edits) {
    for (const change of [...edit.changes, ...edit.follows]) {
      if (change.kind === "setting") (edit.document === bench.solo_id ? settings : ground)[change.id] = change.after;
      if (change.kind !== "anchor") continue;
      moved = true;
      if (change.after === null) anchors.delete(change.id);
      else anchors.set(change.id, change.after as never);
    }
  }
  return {
    ...bench,
    solo: { ...bench.solo, settings: settings as Bench["solo"]["settings"] },
    ground: {
      ...bench.ground,
      settings: ground as Bench["ground"]["settings"],
      anchors: moved ? [...anchors.values()].sort((a, b) => a.tick - b.tick) : bench.ground.anchors,
    },
  };
};

/** The server spoke of a version. */
export const heardOf = (copy: Copy, document: string, version: number): Copy => ({
  ...copy,
  heard: newest(copy.heard, { [document]: version }),
});
/** News may have been missed: whether there are newer versions is to be asked. */
export const deafened = (copy: Copy): Copy => ({
  ...copy,
  heard: Object.fromEntries(Object.keys(copy.versions).map((document) => [document, Infinity])),
});
/** What was missed has been asked for. */
export const caughtUp = (copy: Copy): Copy => ({
  ...copy,
  heard: Object.fromEntries(Object.entries(copy.heard).filter(([, version]) => version !== Infinity)),
});
export const isBehind = (copy: Copy): boolean =>
  Object.entries(copy.heard).some(([document, version]) => version > (copy.versions[document] ?? version));

/** What is drawn: what is stored, and over it what waits. Values that are drawn already keep their identity. */
export const drawn = (copy: Copy, before: Elements): Elements => {
  const next = applied(copy.elements, wholeOf(copy.waiting));
  const groups = Object.entries(next).map(
    ([name, group]) => [name, kept(group as Group, before[name as keyof Elements] as Group)] as const,
  );
  return groups.every(([name, group]) => group === before[name as keyof Elements])
    ? before
    : (Object.fromEntries(groups) as unknown as Elements);
};

type Group = Readonly<Record<string, unknown>>;
const kept = (next: Group, before: Group): Group => {
  if (next === before) return before;
  const ids = Object.keys(next);
  let same = ids.length === Object.keys(before).length;
  let replaced: Record<string, unknown> | null = null;
  for (const id of ids) {
    if (next[id] === before[id]) continue;
    if (before[id] !== undefined && equal(next[id], before[id])) (replaced ??= { ...next })[id] = before[id];
    else same = false;
  }
  return same ? before : (replaced ?? next);
};

/** Equal as JSON, whatever the order of the fields. */
export const equal = (one: unknown, other: unknown): boolean => {
  if (one === other) return true;
  if (typeof one !== "object" || typeof other !== "object" || one === null || other === null)
    return (one ?? null) === (other ?? null);
  const [a, b] = [one, other] as readonly Readonly<Record<string, unknown>>[];
  return [...new Set([...Object.keys(a ?? {}), ...Object.keys(b ?? {})])].every((name) =>
    equal(a?.[name] ?? null, b?.[name] ?? null),
  );
};

/** The first edits to send: whole acts, not too many at once; `alone` only the first act. */
export const nextBatch = (copy: Copy, most: number, alone: boolean): readonly Edit[] => {
  const [first] = copy.waiting;
  if (first === undefined) return [];
  let end = alone ? 1 : Math.min(most, copy.waiting.length);
  while (end < copy.waiting.length && copy.waiting[end]?.act === copy.waiting[end - 1]?.act) end += 1;
  return copy.waiting.slice(0, end);
};

/** Without acts that were refused, and without what waits and was made of their values; both come back. */
export const without = (
  copy: Copy,
  acts: ReadonlySet<string>,
): { readonly copy: Copy; readonly out: readonly Edit[]; readonly resting: readonly Edit[] } => {
  const out = copy.waiting.filter((edit) => acts.has(edit.act));
  const ids = new Set(out.flatMap((edit) => edit.changes.map(nameOf)));
  const left = new Set<string>();
  for (const edit of copy.waiting) {
    if (acts.has(edit.act) || !edit.changes.some((one) => one.before != null && ids.has(nameOf(one)))) continue;
    left.add(edit.act);
    for (const one of edit.changes) ids.add(nameOf(one));
  }
  const resting = copy.waiting.filter((edit) => left.has(edit.act));
  const gone = new Set([...out, ...resting].map((edit) => edit.id));
  return { copy: { ...copy, waiting: rebased(copy.waiting, copy.elements, copy.elements, gone) }, out, resting };
};

/** Edits of one act again, as new ones: as they were, or laid over what stands there now. `other` is another element at the same place, which goes. */
export const again = (
  edits: readonly Edit[],
  elements: Elements,
  over: boolean,
  other: { readonly kind: string; readonly value: unknown } | null = null,
): Edit[] => {
  const act = newId();
  const there = other?.value as { readonly id?: string } | null | undefined;
  const goes =
    over && there?.id !== undefined
      ? [{ kind: other?.kind, id: there.id, before: there, after: null } as unknown as Change]
      : [];
  return edits.flatMap((edit, at) => {
    const changes = edit.changes.flatMap((one) => {
      const now = valueOf(elements, one);
      if (!over || now === undefined) return [one];
      return one.after == null && now === null ? [] : [{ ...one, before: now }];
    });
    const all = at === 0 ? [...goes, ...changes] : changes;
    return all.length === 0
      ? []
      : [{ ...edit, id: newId(), act, at: new Date().toISOString(), schema: 5, changes: all, follows: [] }];
  });
};
