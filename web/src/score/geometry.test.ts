import { describe, expect, it } from "vitest";
import { drawn } from "@/ui/signs";
import { chunksOf, Grid, toPx, toS, zoomStep } from "./axis";
import { deadColumns, guessPosition, keysOnNeck, placeOf } from "./hand";
import { fitting } from "./layout";
import { courseAt, lift, MOST_LIFT, stringY } from "./neck";
import { ridge } from "./peaks";
import { plainNote, type Elements } from "./elements";
import type { NoteView } from "./types";
import { chunksOfNotes, type Placed, viewOf } from "./view";

const NO = { open: false, reach: false };
const hand = { position: 5, strings: 6, slide: 0, mirrored: false };

describe("the axis", () => {
  it("goes there and back", () => {
    const axis = { startS: -0.5, pxPerS: 127 };
    expect(toS(axis, toPx(axis, 12.25))).toBeCloseTo(12.25, 9);
    const grid = new Grid([
      { tick: 0, second: 1 },
      { tick: 10_080, second: 1.5 },
      { tick: 20_160, second: 2.5 },
    ]);
    expect([-10_080, 5040, 15_120, 30_240].map((tick) => grid.second(tick))).toEqual([0.5, 1.25, 2, 3.5]);
    expect(grid.tick(grid.second(12_345))).toBeCloseTo(12_345, 6);
  });
  it("zooms in steps and stops at the ends", () => {
    expect(zoomStep(zoomStep(127, 1), -1)).toBe(127);
    expect(zoomStep(6, -1)).toBe(6);
    expect(zoomStep(340, 1)).toBe(340);
  });
  it("draws the chunks in view and one more on both sides", () => {
    expect(chunksOf(1300, 2500, 640, 99)).toEqual([1, 2, 3, 4]);
    expect(chunksOf(0, 100, 640, 0)).toEqual([0]);
  });
});

describe("the hand block", () => {
  it("lies with columns on strings 6 to 1 and rows on four frets", () => {
    expect(placeOf(hand, "Digit1", NO)).toEqual({ string: 6, fret: 5 });
    expect(placeOf(hand, "KeyN", NO)).toEqual({ string: 1, fret: 8 });
    expect(placeOf(hand, "KeyF", { open: false, reach: true })).toEqual({ string: 3, fret: 8 });
    expect(placeOf(hand, "KeyF", { open: true, reach: false })).toEqual({ string: 3, fret: 0 });
    expect(placeOf(hand, "KeyU", NO)).toBeNull();
    expect(keysOnNeck(hand)).toHaveLength(24);
  });
  it("has dead columns with four strings and slides with eight", () => {
    expect(deadColumns({ ...hand, strings: 4 })).toBe(2);
    expect(placeOf({ ...hand, strings: 4 }, "Digit1", NO)).toBeNull();
    expect(placeOf({ ...hand, strings: 4 }, "Digit3", NO)).toEqual({ string: 4, fret: 5 });
    expect(placeOf({ ...hand, strings: 8 }, "Digit1", NO)).toEqual({ string: 8, fret: 5 });
    expect(placeOf({ ...hand, strings: 8, slide: 2 }, "Digit6", NO)).toEqual({ string: 1, fret: 5 });
  });
  it("mirrors", () => expect(placeOf({ ...hand, mirrored: true }, "Digit0", NO)).toEqual({ string: 6, fret: 5 }));
  it("guesses where the hand is from what was written last", () => {
    const at = (...frets: number[]) => frets.map((fret) => ({ string: 2, fret }));
    expect(guessPosition(at(7, 10), 5)).toBe(7);
    expect(guessPosition(at(0, 8), 7)).toBe(7);
    expect(guessPosition([], 5)).toBe(5);
    expect(guessPosition(at(3, 12), 3)).toBe(11);
  });
});

describe("drawing", () => {
  it("takes the largest type that fits, or none", () => {
    expect([200, 60, 45, 20].map((width) => fitting(5, width, [22, 18, 15]))).toEqual([22, 18, 15, null]);
  });
  it("lifts a bend to scale, and a wide one to a limit", () => {
    expect([lift(2), lift(4), lift(12)]).toEqual([11, 22, MOST_LIFT]);
    expect(
      courseAt(
        [
          [0, 0],
          [100, 4],
          [200, 4],
          [300, 0],
        ],
        250,
      ),
    ).toBe(2);
    expect(courseAt([], 5)).toBe(0);
  });
  it("puts string 1 on top, or at the bottom", () => {
    const neck = { top: 100, spacing: 30, strings: 6, flip: false };
    expect([stringY(neck, 1), stringY({ ...neck, flip: true }, 1)]).toEqual([100, 250]);
    expect([stringY(neck, 8), stringY({ ...neck, flip: true }, 8)]).toEqual([250, 100]); // no such string: the last's lane
  });
  it("keeps the list of a stretch in which nothing changed, and lays a note into every stretch that it reaches", () => {
    const at = (id: string, x: number, endX: number) => ({ id, x, endX }) as Placed;
    const [a, b, c] = [at("a", 10, 50), at("b", 600, 700), at("c", 1_400, 1_450)];
    const first = chunksOfNotes([a, b, c], 640, 20, new Map());
    expect([...first].map(([i, own]) => [i, own.map((one) => one.id)])).toEqual([
      [-1, ["a"]],
      [0, ["a", "b"]],
      [1, ["b"]],
      [2, ["c"]],
    ]);
    const second = chunksOfNotes([a, at("b", 600, 700), c], 640, 20, first);
    expect([-1, 0, 1, 2].map((i) => second.get(i) === first.get(i))).toEqual([true, false, false, true]);
  });
  it("lays again only what moved, got another label, or has another neighbour", () => {
    const axis = { startS: 0, pxPerS: 100 };
    const grid = new Grid([
      { tick: 0, second: 0 },
      { tick: 10_080, second: 1 },
    ]);
    const notes = [0, 1, 2, 3, 4].map((i) => plainNote(`n${i}`, i * 2_520, 2_520, 1 + (i % 2), 5));
    const view = (i: number) => ({ expected_s: i / 4, end_s: (i + 1) / 4 }) as NoteView;
    const views = Object.fromEntries(notes.map((note, i) => [note.id, view(i)]));
    const elements = (all: typeof notes) =>
      ({ notes: Object.fromEntries(all.map((note) => [note.id, note])) }) as unknown as Elements;
    const first = viewOf(elements(notes), views, grid, axis);
    expect(first.notes.map(({ x, room, gap }) => [x, room, gap])).toEqual([
      [0, 25, 25],
      [25, 25, 25],
      [50, 25, 25],
      [75, 25, 25],
      [100, Infinity, 25],
    ]);
    expect(first.notes.map(({ before }) => before?.x)).toEqual([undefined, undefined, 0, 25, 50]);
    const moved = notes.map((note) => (note.id === "n3" ? { ...note, fret: 700 } : note));
    const second = viewOf(elements(moved), { ...views, n1: view(1) }, grid, axis);
    expect(second.notes.map((note, i) => note === first.notes[i])).toEqual([true, false, true, false, true]);
    expect(
      viewOf(elements(moved.slice(0, 4)), views, grid, axis).notes.map((note, i) => note === second.notes[i]),
    ).toEqual([true, false, true, false]);
  });
  it("draws the loudest of a pixel", () => {
    expect(ridge({ values: new Int8Array([0, 0, 0, -100, 10, 50]), blockS: 1, loudest: 100 }, 0, 2, 2, 100)).toBe(
      "M0 100L0 100.0L1 0.0L2 100.0L2 100Z",
    );
  });
  it("draws accidentals and leaves words alone", () => {
    expect(["Bb7(b9)", "F#m7b5", "bb7", "Ab/Eb", "the b3+ of Bbm7", "bent by the bar"].map(drawn)).toEqual([
      "B♭7(♭9)",
      "F♯m7♭5",
      "♭♭7",
      "A♭/E♭",
      "the ♭3+ of B♭m7",
      "bent by the bar",
    ]);
  });
});
