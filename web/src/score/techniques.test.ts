import { describe, expect, it } from "vitest";
import { plainNote } from "./elements";
import { cut, shapeBy, spread, stroke, TECHNIQUES, walk } from "./techniques";
import type { Note, Stack, Tables } from "./types";

const tables = { bend_sizes: [], bend_reached: 5040, frets: 22, strings: [1, 2, 3, 4, 5, 6] } as unknown as Tables;
const note = (): Note => plainNote("n", 0, 20_160, 2, 8);
const after = (act: { changes: { after?: unknown }[] } | null): Note => act?.changes[0]?.after as Note;

describe("techniques", () => {
  it.each(TECHNIQUES.map((one) => one.name))("%s is done by one press and undone by further ones", (name) => {
    const technique = TECHNIQUES.find((one) => one.name === name);
    if (technique === undefined) throw new Error(name);
    let now: Note = name === "picked" ? { ...note(), attack: { kind: "tapped" } } : note();
    expect(technique.on(now, tables)).toBe(false);
    now = after(shapeBy(name, now, tables));
    expect(technique.on(now, tables)).toBe(true);
    expect(
      now.course.every(([at], i, all) => at <= now.ticks && (i === 0 ? at === 0 : at > (all[i - 1]?.[0] ?? 0))),
    ).toBe(true);
    if (name === "picked") return;
    for (let presses = 0; technique.on(now, tables) && presses < 6; presses += 1)
      now = after(shapeBy(name, now, tables));
    expect(technique.on(now, tables)).toBe(false);
  });
  it.each(TECHNIQUES.map((one) => one.name))("%s fits a note of a few ticks", (name) => {
    const short = { ...note(), ticks: 3 };
    const shaped = after(shapeBy(name, short, tables));
    const course = shaped.course;
    expect(course.every(([at], i) => at >= 0 && at <= 3 && (i === 0 || at > (course[i - 1]?.[0] ?? 0)))).toBe(true);
  });
  it("walks several by one key and comes back to none", () => {
    const names = ["slide in from below", "slide in from above", "slide off downwards", "slide off upwards"];
    let now = note();
    const seen: string[] = [];
    for (let presses = 0; presses < 5; presses += 1) {
      const act = walk(names, now, tables);
      now = after(act);
      seen.push(names.filter((name) => TECHNIQUES.find((one) => one.name === name)?.on(now, tables)).join());
    }
    expect(seen).toEqual([...names, ""]);
    expect(now).toEqual(note());
  });
  it("strokes, spreads and cuts a stack", () => {
    const stack: Stack = { id: "s", stroke: null, spread_ms: 0 };
    expect((stroke(stack, "n").changes[0]?.after as Stack).stroke).toBe("down");
    expect((stroke({ ...stack, stroke: "together" }, "n").changes[0]?.after as Stack).stroke).toBeNull();
    expect((spread(stack, "n").changes[0]?.after as Stack).spread_ms).toBe(30);
    const notes = [note(), { ...note(), id: "m", string: 3, ticks: 10_080 }];
    const ended = cut(notes, "n").changes.map((one) => one.after as Note);
    expect(ended.map((one) => [one.ticks, one.ending?.kind])).toEqual([
      [10_080, "choked"],
      [10_080, "choked"],
    ]);
    expect(cut(ended, "n").changes.map((one) => (one.after as Note).ending)).toEqual([null, null]);
  });
});
