import { describe, expect, it } from "vitest";
import { cellOf, inCell, layDegree, type LaidDegree } from "./degrees";

const TEXTS = ["1", "♭3", "5", "♯11", "♭♭7"];
const SIZES = [18, 15, 13];

/** What a degree covers, from left to right, its bend's start and its point too. */
const covers = (laid: LaidDegree, pointed: boolean): readonly [number, number] => [
  laid.start === "" ? laid.left : -11,
  laid.left + laid.width + (pointed && laid.tablet ? 8 : 0),
];

describe("degrees in their cells", () => {
  it("never touch, however the notes lie", () => {
    let seed = 7;
    const random = (below: number) => (seed = (seed * 16_807) % 2_147_483_647) % below;
    let drawn = 0;
    for (let round = 0; round < 300; round += 1) {
      const xs = [0];
      for (let i = 0; i < 12; i += 1) xs.push((xs.at(-1) ?? 0) + 8 + random(70));
      let end = -Infinity;
      xs.forEach((x, i) => {
        const lead = x - (xs[i - 1] ?? -Infinity);
        const room = (xs[i + 1] ?? Infinity) - x;
        const pointed = random(5) === 0;
        const says = { text: TEXTS[random(5)] ?? "1", start: random(3) === 0 ? "♭7" : "", pointed, sizes: SIZES };
        const laid = layDegree(says, cellOf(lead, room), Math.min(lead, room));
        if (laid === null) return;
        drawn += 1;
        const [from, to] = covers(laid, pointed);
        expect(x + from - end).toBeGreaterThanOrEqual(2);
        end = x + to;
      });
    }
    expect(drawn).toBeGreaterThan(2_000);
  });

  it("lose a bend's start, then size, then the tablet, then all", () => {
    const bent = { text: "♭3", start: "9", pointed: false, sizes: SIZES };
    const at = (gap: number) => layDegree(bent, cellOf(gap, gap), gap);
    expect(at(90)).toMatchObject({ tablet: true, start: "9" });
    expect(at(40)).toMatchObject({ tablet: true, start: "", size: 18 });
    expect(at(26)).toMatchObject({ tablet: true, size: 15 });
    expect(at(22)).toMatchObject({ tablet: false, size: 15 });
    expect(at(13)).toBeNull();
  });

  it("says a name where it stays beside its neighbours' names", () => {
    expect(inCell(cellOf(40, 40), 0, 2, 13)).toBe(true);
    expect(inCell(cellOf(16, 40), 0, 3, 13)).toBe(false);
  });
});
