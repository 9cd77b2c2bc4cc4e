import { describe, expect, it } from "vitest";
import { type Drawing, FIGURE, layFigure, wideEnough } from "./lickFigure";

const drawing = (places: readonly (readonly [tick: number, string: number])[]): Drawing =>
  ({
    start: 0,
    end: 40_320,
    strings: ["E4", "B3", "G3", "D3", "A2", "E2"],
    bars: [{ label: "1", tick: 0 }],
    chords: [
      { tick: 0, shown: "C7" },
      { tick: 20_160, shown: "F7" },
    ],
    notes: places.map(([tick, string], i) => ({
      note: { id: `n${i}`, tick, ticks: 5_040, string, fret: 500, course: [], attack: { kind: "pick" } },
      fret: "5",
      degrees: ["1"],
      bends: [],
    })),
  }) as unknown as Drawing;

describe("a lick's drawing", () => {
  it("lays notes by time inside its width, each with the room to the next", () => {
    const laid = layFigure(
      drawing([
        [0, 2],
        [5_040, 2],
        [30_240, 1],
      ]),
      { width: 400, strings: 6 },
    );
    const [first, second, third] = laid.notes;
    expect(first?.x).toBe(FIGURE.left);
    expect(second?.lead).toBe(first?.room);
    expect((third?.x ?? 0) - (second?.x ?? 0)).toBeCloseTo(second?.room ?? 0);
    expect(laid.notes.every(({ x, endX }) => x >= FIGURE.left && endX <= 400 - FIGURE.right)).toBe(true);
    expect(second?.joinedFrom).toBe(first?.x);
    expect(laid.notes.map(({ onset }) => onset)).toEqual([0, 1, 2]);
  });

  it("puts the notes of a stack under one another and grows for them", () => {
    const one = layFigure(drawing([[0, 1]]), { width: 300, strings: 6 });
    const three = layFigure(
      drawing([
        [0, 1],
        [0, 2],
        [0, 3],
      ]),
      { width: 300, strings: 6 },
    );
    expect(three.notes.map(({ row }) => row)).toEqual([0, 1, 2]);
    expect(three.height - one.height).toBe(2 * 17);
  });

  it("takes more room than there is when its degrees need it", () => {
    const many = drawing(Array.from({ length: 30 }, (_, i) => [i * 1_344, 1] as const));
    expect(wideEnough(many, 300)).toBe(FIGURE.left + FIGURE.right + 600);
    expect(wideEnough(many, 900)).toBe(900);
  });
});
