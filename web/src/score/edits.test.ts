import { describe, expect, it } from "vitest";
import { join, moveFret, moveInTime, removeNotes, setLength, withLength, writeNote, writeRest } from "./edits";
import { plainNote, type Elements, together } from "./elements";
import { bend, release, slideInto, toggleDead } from "./shaping";
import type { Change, Note, Tables } from "./types";

const tables = {
  bend_sizes: [1, 2, 4, 6, 8].map((quarters) => ({ at: 0, quarters, size: "" })),
  bend_reached: 5040,
} as unknown as Tables;

const elements = (notes: Note[], rests: { id: string; tick: number; ticks: number }[] = []): Elements => ({
  notes: Object.fromEntries(notes.map((note) => [note.id, note])),
  rests: Object.fromEntries(rests.map((rest) => [rest.id, rest])),
  stacks: {},
  phrases: {},
  questions: {},
  dynamics: {},
  swells: {},
  choices: {},
  remarks: {},
  plan: {},
});
type Changes = { changes: Change[]; follows?: Change[] };
const whole = (made: Changes): Change[] => [...made.changes, ...(made.follows ?? [])];
const after = (made: object, id: string) =>
  whole({ changes: [], ...made }).findLast((change) => change.id === id)?.after;

describe("writing", () => {
  it("changes only the fret of a note that stands there", () => {
    const there = { ...plainNote("a", 0, 5040, 2, 5), accent: true };
    expect(after(writeNote(elements([there]), { tick: 0, ticks: 100, string: 2, fret: 7 }, false), "a")).toEqual({
      ...there,
      fret: 700,
    });
  });
  it("shortens what sounds on the string and stops at the next note", () => {
    const made = writeNote(
      elements([plainNote("a", 0, 10_080, 2, 5), plainNote("b", 7560, 2520, 2, 8)].slice(0, 1)),
      { tick: 5040, ticks: 5040, string: 2, fret: 7 },
      false,
    );
    expect(after(made, "a")).toMatchObject({ ticks: 5040 });
    const short = writeNote(
      elements([plainNote("b", 7560, 2520, 2, 8)]),
      { tick: 5040, ticks: 5040, string: 2, fret: 7 },
      false,
    );
    expect(after(short, short.picked ?? "")).toMatchObject({ ticks: 2520 });
  });
  it("joins: up is a hammer-on, down a pull-off, the same fret a tie", () => {
    const before = plainNote("a", 0, 5040, 2, 5);
    const at = { tick: 5040, ticks: 5040, string: 2 };
    const kinds = [7, 3].map((fret) => {
      const made = writeNote(elements([before]), { ...at, fret }, true);
      return (after(made, made.picked ?? "") as Note).attack.kind;
    });
    expect(kinds).toEqual(["hammer-on", "pull-off"]);
    const tie = writeNote(elements([before]), { ...at, fret: 5 }, true);
    expect(tie.changes).toHaveLength(1);
    expect(after(tie, "a")).toMatchObject({ ticks: 10_080 });
  });
  it("takes the rest that it covers away and leaves what stands out", () => {
    const made = writeNote(
      elements([], [{ id: "r", tick: 0, ticks: 20_160 }]),
      { tick: 5040, ticks: 5040, string: 2, fret: 5 },
      false,
    );
    const rests = whole(made)
      .filter((change) => change.kind === "rest")
      .map((change) => change.after as { tick: number; ticks: number });
    expect(rests.map(({ tick, ticks }) => [tick, ticks])).toEqual([
      [0, 5040],
      [10_080, 10_080],
    ]);
  });
  it("makes a stack of notes that start together, and ends it when one is left", () => {
    const made = writeNote(
      elements([plainNote("a", 0, 5040, 2, 5)]),
      { tick: 0, ticks: 5040, string: 3, fret: 5 },
      false,
    );
    const [stack] = whole(made).filter((change) => change.kind === "stack");
    expect(after(made, "a")).toMatchObject({ stack: stack?.id });
    const stacked: Elements = {
      ...elements([
        { ...plainNote("a", 0, 5040, 2, 5), stack: "s" },
        { ...plainNote("b", 0, 5040, 3, 5), stack: "s" },
      ]),
      stacks: { s: { id: "s", stroke: null, spread_ms: 0 } },
    };
    const gone = removeNotes(stacked, ["a"]);
    expect(after(gone, "b")).toMatchObject({ stack: null });
    expect(
      whole(gone)
        .map((change) => [change.kind, change.after === null])
        .sort(),
    ).toEqual([
      ["note", false],
      ["note", true],
      ["stack", true],
    ]);
  });
  it("lets a rest cut what sounds", () => {
    expect(after(writeRest(elements([plainNote("a", 0, 10_080, 2, 5)]), 5040, 5040), "a")).toMatchObject({
      ticks: 5040,
    });
  });
});

describe("shaping", () => {
  it("walks the sizes of a bend, wider at each press, and back to none", () => {
    let note = plainNote("a", 0, 10_080, 2, 5);
    const sizes: number[] = [];
    for (let press = 0; press < 6; press += 1) {
      note = after(bend(note, tables), "a") as Note;
      sizes.push(note.course[1]?.[1] ?? 0);
    }
    expect(sizes).toEqual([1, 2, 4, 6, 8, 0]);
  });
  it("shapes several notes in one act, and leaves those that are so already", () => {
    const [a, b, c] = [
      plainNote("a", 0, 5040, 2, 5),
      { ...plainNote("b", 5040, 5040, 2, 7), dead: true },
      plainNote("c", 10_080, 9000, 3, 5),
    ];
    const dead = together([a, b, c].map(toggleDead));
    expect(dead).toMatchObject({ label: "dead, 2 notes", picked: "a" });
    expect(whole(dead as Changes).map((change) => change.id)).toEqual(["a", "c"]);
    const bent = together([a, c].map((note) => bend(note, tables)));
    expect(whole(bent as Changes).map((change) => (change.after as Note).course[1])).toEqual([
      [2520, 1],
      [4500, 1],
    ]);
    expect(together([null, bend(a, tables)])).toEqual(bend(a, tables));
    expect(together([null])).toBeNull();
  });
  it("lets a bend down over its last third, and holds it again", () => {
    const bent = after(bend(plainNote("a", 0, 9_000, 2, 5), tables), "a") as Note;
    const down = after(release(bent), "a") as Note;
    expect(down.course).toEqual([
      [0, 0],
      [4500, 1],
      [6000, 1],
      [9000, 0],
    ]);
    expect((after(release(down), "a") as Note).course).toEqual(bent.course);
  });
  it("shortening sets the first point past the end on the end and drops the rest; lengthening moves none", () => {
    const note = {
      ...plainNote("a", 0, 9000, 2, 5),
      course: [
        [0, 0],
        [4500, 4],
        [6000, 4],
        [9000, 0],
      ] as [number, number][],
    };
    expect(withLength(note, 5000).course).toEqual([
      [0, 0],
      [4500, 4],
      [5000, 4],
    ]);
    expect(withLength(note, 20_000).course).toEqual(note.course);
  });
  it("lengthening stops at the next note of the string", () => {
    const [a, b] = [plainNote("a", 0, 5040, 2, 5), plainNote("b", 7560, 5040, 2, 5)];
    expect(after(setLength(elements([a, b]), a, 40_320), "a")).toMatchObject({ ticks: 7560 });
  });
  it("moving in time leaves the stack", () => {
    const stacked: Elements = {
      ...elements([
        { ...plainNote("a", 0, 5040, 2, 5), stack: "s" },
        { ...plainNote("b", 0, 5040, 3, 5), stack: "s" },
      ]),
      stacks: { s: { id: "s", stroke: null, spread_ms: 0 } },
    };
    const made = moveInTime(stacked, stacked.notes["a"] as Note, 5040, [0, 40_320]);
    expect(after(made, "a")).toMatchObject({ tick: 5040, stack: null });
    expect(after(made, "b")).toMatchObject({ stack: null });
  });
  it("says in a sentence why a move, a release, a join or a slide does nothing", () => {
    const [a, b] = [plainNote("a", 0, 5040, 2, 0), plainNote("b", 5040, 5040, 2, 22)];
    const both = elements([a, b]);
    const bars = [0, 40_320] as const;
    expect([
      moveInTime(both, a, -5040, bars),
      moveInTime(both, a, 2520, bars),
      moveInTime(both, b, 2520, bars),
      moveFret(a, -1, 22),
      moveFret(b, 1, 22),
      release(a),
      join(both, a),
      slideInto(both, a),
      slideInto(elements([a, { ...b, fret: 0 }]), { ...b, fret: 0 }),
    ]).toEqual(
      [
        "The strip begins here.",
        "The next note on this string starts here.",
        "The note before it on this string ends here.",
        "The string is open here: there is nothing lower.",
        "Fret 22 is the last one.",
        "There is no bend to release: bend the note first.",
        "There is no note before this one on its string to join it to.",
        "There is no note before this one on its string to slide from.",
        "The note before it is on the same fret: there is nothing to slide.",
      ].map((nothing) => ({ nothing })),
    );
  });
});
