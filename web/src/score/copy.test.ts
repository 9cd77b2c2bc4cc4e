import { describe, expect, it } from "vitest";
import {
  again,
  answered,
  caughtUp,
  type Copy,
  deafened,
  drawn,
  equal,
  heardOf,
  isBehind,
  made,
  nextBatch,
  opened,
  without,
} from "./copy";
import { plainNote } from "./elements";
import type { Answer, Bench, Change, Edit } from "./types";

// A server's log of one solo: its edit number `i` writes note `i`, or changes the one before.
const written = (i: number): Change =>
  i % 2 === 0
    ? { kind: "note", id: `n${i}`, before: null, after: plainNote(`n${i}`, i * 10_080, 5_040, 2, 5) }
    : {
        kind: "note",
        id: `n${i - 1}`,
        before: plainNote(`n${i - 1}`, (i - 1) * 10_080, 5_040, 2, 5),
        after: plainNote(`n${i - 1}`, (i - 1) * 10_080, 5_040, 2, 7),
      };
const edit = (i: number, changes: Change[] = [written(i)], fields: Partial<Edit> = {}): Edit => ({
  id: `e${i}`,
  act: `a${i}`,
  document: "solo",
  made_in: "solo",
  undoes: null,
  person: "me",
  at: "2026-11-28T10:00:00Z",
  schema: 5,
  label: "write a note",
  changes,
  follows: [],
  ...fields,
});
const LOG = [0, 1, 2, 3].map((i) => edit(i));
const frets = (upto: number): Record<string, number> =>
  Object.fromEntries(
    LOG.slice(0, upto).map(
      ({ changes }) => [changes[0]?.id ?? "", (changes[0]?.after as { fret: number }).fret] as const,
    ),
  );
const fretsOf = (copy: Copy) =>
  Object.fromEntries(Object.values(copy.elements.notes).map((note) => [note.id, note.fret]));

const bench = (version: number): Bench =>
  ({
    solo_id: "solo",
    ground_id: "ground",
    versions: { solo: version, ground: 0 },
    solo: {
      settings: {},
      notes: Object.entries(frets(version)).map(([id, fret]) =>
        plainNote(id, Number(id.slice(1)) * 10_080, 5_040, 2, fret / 100),
      ),
      rests: [],
      stacks: [],
      phrases: [],
      questions: [],
      dynamics: [],
      swells: [],
      choices: [],
      remarks: [],
      plan: [],
    },
    ground: { settings: {}, anchors: [] },
    strip: { bars: [] },
    tables: {},
    views: {},
    violations: [],
    progress: {},
    history: { undo: null, redo: null },
  }) as unknown as Bench;
const answer = (since: number, upto: number, fields: Partial<Answer> = {}): Answer =>
  ({
    since: { solo: since, ground: 0 },
    versions: { solo: upto, ground: 0 },
    edits: LOG.slice(since, upto),
    refused: [],
    views: Object.fromEntries(Array.from({ length: upto }, (_, i) => [`n${i}`, { id: `n${i}`, of: upto }])) as never,
    whole: false,
    strip: null,
    tables: null,
    violations: [],
    progress: {},
    history: { undo: null, redo: null },
    messages: [],
    ...fields,
  }) as unknown as Answer;

type Arrival = { readonly name: string; readonly to: (copy: Copy) => Copy };
const ARRIVALS: readonly Arrival[] = [
  ...[0, 2, 4].map((version) => ({
    name: `opened at ${version}`,
    to: (copy: Copy) => opened(copy, bench(version), []) ?? copy,
  })),
  ...[
    [0, 1],
    [0, 3],
    [1, 2],
    [2, 4],
    [3, 4],
  ].map(([since = 0, upto = 0]) => ({
    name: `${since} to ${upto}`,
    to: (copy: Copy) => answered(copy, answer(since, upto)),
  })),
  { name: "news of 3", to: (copy: Copy) => heardOf(copy, "solo", 3) },
  { name: "the line was cut", to: deafened },
];
const orders = <T>(items: readonly T[], length: number): T[][] =>
  length === 0
    ? [[]]
    : items.flatMap((item, at) =>
        orders([...items.slice(0, at), ...items.slice(at + 1)], length - 1).map((rest) => [item, ...rest]),
      );
const start = (version = 0): Copy => {
  const copy = opened(null, bench(version), []);
  if (copy === null) throw new Error("a first opening is taken");
  return copy;
};

describe("the page's copy", () => {
  it("is always the server's state at the versions that it names, in whatever order answers arrive, and asks again until it is the newest", () => {
    const all = orders(ARRIVALS, 4);
    expect(all.length).toBe(5_040);
    for (const order of all) {
      let copy = start();
      let known = 0;
      for (const { to, name } of order) {
        copy = to(copy);
        const version = copy.versions["solo"] ?? 0;
        const where = `${order.map((one) => one.name).join(", ")}: after ${name}`;
        expect(version, where).toBeGreaterThanOrEqual(known);
        if (!equal(fretsOf(copy), frets(version))) expect(fretsOf(copy), where).toEqual(frets(version));
        known = version;
      }
      if (isBehind(copy)) copy = caughtUp(answered(copy, answer(known, 4)));
      expect(isBehind(copy)).toBe(false);
    }
  });
  it("knows a gap: of an answer that leads on from later than is known only the news is kept", () => {
    const copy = answered(start(), answer(2, 4));
    expect([copy.versions["solo"], fretsOf(copy), isBehind(copy)]).toEqual([0, {}, true]);
    expect(fretsOf(answered(copy, answer(0, 4)))).toEqual(frets(4));
  });
  it("drops an opening that is older than what is known, and keeps what waits", () => {
    const copy = made(answered(start(), answer(0, 3)), edit(9));
    expect(opened(copy, bench(2), [])).toBeNull();
    expect(opened(copy, bench(3), [])?.waiting).toHaveLength(1);
    expect(opened(copy, bench(4), [edit(9), edit(8)])?.waiting.map(({ id }) => id)).toEqual(["e9", "e8"]);
  });
  it("keeps labels with the versions that they belong to", () => {
    const late = answered(answered(start(), answer(0, 4)), answer(0, 2));
    expect(late.views["n0"]).toEqual({ id: "n0", of: 4 });
  });
  it("draws what waits over what is stored, and what the core made of it in place of its own once it is answered", () => {
    const mine = edit(0, [written(0)], {
      follows: [{ kind: "rest", id: "r", before: null, after: { id: "r", tick: 5_040, ticks: 100 } }],
    });
    const copy = made(start(), mine);
    const shown = drawn(copy, start().elements);
    expect([Object.keys(shown.notes), Object.keys(shown.rests)]).toEqual([["n0"], ["r"]]);
    const settled = answered(copy, answer(0, 1), new Set(["e0"]));
    expect(settled.waiting).toEqual([]);
    const after = drawn(settled, shown);
    expect(after.rests).toEqual({});
    expect(after.notes["n0"]).toBe(shown.notes["n0"]); // drawn already: the same value
    expect(drawn(settled, after)).toBe(after);
  });
  it("takes an answer that came twice once, and one whose first answer was lost", () => {
    const copy = made(made(start(), LOG[0] as Edit), LOG[1] as Edit);
    const once = answered(copy, answer(0, 2), new Set(["e0", "e1"]));
    expect(answered(once, answer(0, 2), new Set(["e0", "e1"]))).toEqual(once);
    expect([fretsOf(once), once.waiting]).toEqual([frets(2), []]);
  });
  it("leaves out what was refused with what was made of its values, and nothing else", () => {
    const first = edit(10, [
      { kind: "note", id: "n0", before: plainNote("n0", 0, 5_040, 2, 5), after: plainNote("n0", 0, 5_040, 2, 9) },
    ]);
    const resting = edit(11, [{ kind: "note", id: "n0", before: plainNote("n0", 0, 5_040, 2, 9), after: null }]);
    const other = edit(12, [written(4)]);
    const copy = [first, resting, other].reduce(made, start(1));
    const found = without(copy, new Set(["a10"]));
    expect([found.out, found.resting, found.copy.waiting].map((edits) => edits.map(({ id }) => id))).toEqual([
      ["e10"],
      ["e11"],
      ["e12"],
    ]);
  });
  it("takes what was drawn of an act that was left out back out of what waits behind it", () => {
    const [whole, short] = [plainNote("n0", 0, 5_040, 2, 5), plainNote("n0", 0, 2_520, 2, 5)];
    const refused = edit(10, [written(4)], { follows: [{ kind: "note", id: "n0", before: whole, after: short }] });
    const behind = edit(11, [{ kind: "note", id: "n0", before: short, after: { ...short, fret: 900 } }]);
    const found = without([refused, behind].reduce(made, start(1)), new Set(["a10"]));
    expect(found.copy.waiting).toEqual([
      { ...behind, changes: [{ kind: "note", id: "n0", before: whole, after: { ...whole, fret: 900 } }] },
    ]);
  });
  it("sends whole acts, and single ones when it looks for the one that was refused", () => {
    const copy = [edit(1), edit(2, [written(2)], { act: "a1" }), edit(3)].reduce(made, start());
    expect(nextBatch(copy, 1, false).map(({ id }) => id)).toEqual(["e1", "e2"]);
    expect(nextBatch(copy, 200, true).map(({ id }) => id)).toEqual(["e1", "e2"]);
    expect(nextBatch(copy, 200, false)).toHaveLength(3);
  });
  it("tries an act again as it was, or over what stands there now", () => {
    const theirs = plainNote("n0", 0, 5_040, 2, 12);
    const mine = edit(1, [
      { kind: "note", id: "n0", before: plainNote("n0", 0, 5_040, 2, 5), after: plainNote("n0", 0, 5_040, 2, 9) },
    ]);
    const elements = { ...start().elements, notes: { n0: theirs } };
    const [same] = again([mine], elements, false);
    expect([same?.changes, same?.id === mine.id]).toEqual([mine.changes, false]);
    expect(again([mine], elements, true)[0]?.changes[0]?.before).toEqual(theirs);
    const placed = again([edit(2, [written(2)])], elements, true, { kind: "note", value: theirs })[0];
    expect(placed?.changes.map(({ id, after }) => [id, after === null])).toEqual([
      ["n0", true],
      ["n2", false],
    ]);
  });
});
