import { describe, expect, it } from "vitest";
import { keysOnNeck } from "@/score/hand";
import { BINDINGS, codeOf, deedOf } from "./keymap";

describe("the keymap", () => {
  const block = (mirrored: boolean) => keysOnNeck({ position: 5, strings: 6, slide: 0, mirrored }).map((key) => key.code);

  it.each([false, true])("has no key twice, and none under the hand block (mirrored: %s)", (mirrored) => {
    const codes = BINDINGS.map((binding) => (mirrored ? codeOf(binding.deed, true) : binding.code));
    const own = mirrored ? [...new Set(codes)] : codes;
    expect(new Set(own).size).toBe(own.length);
    expect(own.filter((code) => block(mirrored).includes(code))).toEqual([]);
  });
  it.each([false, true])("finds the deed of every key (mirrored: %s)", (mirrored) => {
    for (const { deed } of BINDINGS) expect(deedOf(codeOf(deed, mirrored), mirrored)).toBe(deed);
  });
  it("says what every key does", () => {
    expect(BINDINGS.every((binding) => binding.says.length > 3)).toBe(true);
  });
});
