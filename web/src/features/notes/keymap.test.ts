import { describe, expect, it } from "vitest";
import { capOf, keysOnNeck, learnLetter } from "@/score/hand";
import { BINDINGS, bound, codeOf, deedOf, keysOf, pedalDeed, PRESET_KEYS, SHIFTED, shifted, writes } from "./keymap";

const plain = keysOf(PRESET_KEYS);
const boards = [
  plain,
  { ...plain, mirrored: true },
  { ...plain, numbers: true },
  { ...plain, numbers: true, mirrored: true },
];

describe("the keymap", () => {
  it.each(boards)("has no key twice, and none that writes notes ($mirrored, $numbers)", (keys) => {
    const codes = BINDINGS.map(({ deed }) => codeOf(deed, keys));
    expect(new Set(codes).size).toBe(codes.length);
    expect(codes.filter((code) => writes(code, keys))).toEqual([]);
  });
  it.each(boards)("finds the deed of every key ($mirrored, $numbers)", (keys) => {
    for (const { deed } of BINDINGS) expect(deedOf(codeOf(deed, keys), keys)).toBe(deed);
    expect(deedOf("Backspace", keys)).toBe("delete");
  });
  it("lays the block where the neck shows it", () => {
    const block = keysOnNeck({ position: 5, strings: 6, slide: 0, mirrored: false }).map((key) => key.code);
    expect(block.every((code) => writes(code, plain))).toBe(true);
  });
  it("binds a key anew; what had it takes the old one", () => {
    const own = bound("bend", "KeyO", plain);
    expect(own).toEqual({ bend: "KeyO", vibrato: "KeyU" });
    const keys = { ...plain, own: own as object };
    expect([deedOf("KeyO", keys), deedOf("KeyU", keys)]).toEqual(["bend", "vibrato"]);
    expect(bound("bend", "NumpadEnter", plain)).toEqual({ bend: "NumpadEnter" });
  });
  it.each([
    ["KeyT", "writes notes"],
    ["PageDown", "pedal"],
    ["Tab", "browser"],
    ["F5", "browser"],
  ])("keeps %s where it is", (code, words) => {
    expect(bound("bend", code, plain)).toContain(words);
  });
  it("gives the pedal its pages, and the arrows when asked", () => {
    expect([pedalDeed("PageDown", false), pedalDeed("PageUp", false), pedalDeed("ArrowRight", false)]).toEqual([
      "play",
      "next phrase",
      null,
    ]);
    expect([pedalDeed("ArrowRight", true), pedalDeed("ArrowLeft", true), pedalDeed("ArrowDown", true)]).toEqual([
      "play",
      "next phrase",
      "loop",
    ]);
  });
  it("learns the letters of another board", () => {
    expect(capOf("KeyQ")).toBe("Q");
    expect(learnLetter("KeyQ", "a")).toBe(true);
    expect(learnLetter("Semicolon", "ö")).toBe(true);
    expect([capOf("KeyQ"), capOf("Semicolon"), capOf("KeyW")]).toEqual(["A", "Ö", "W"]);
    expect(learnLetter("Digit1", "!")).toBe(false);
    expect(learnLetter("KeyQ", "Shift")).toBe(false);
  });
  it("says what every key does", () => {
    expect(BINDINGS.every((binding) => binding.says.length > 3)).toBe(true);
  });
  it("has one deed more on a key with shift, and leaves the others as they are", () => {
    expect(new Set(SHIFTED.map((one) => one.deed)).size).toBe(SHIFTED.length);
    expect(SHIFTED.every((one) => one.says.length > 3 && BINDINGS.some((binding) => binding.deed === one.of))).toBe(
      true,
    );
    expect([shifted("bend"), shifted("delete")]).toEqual(["prebend", "delete"]);
  });
});
