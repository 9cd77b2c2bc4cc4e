import { describe, expect, it } from "vitest";
import { drawn } from "./signs";

describe("accidentals as they are drawn", () => {
  it.each([
    ["b3 of Bb7(#11)", "♭3 of B♭7(♯11)"],
    ["bIIImaj7 to bvi7 to bII", "♭IIImaj7 to ♭vi7 to ♭II"],
    ["bb7 over Ebm7", "♭♭7 over E♭m7"],
    ["a bit above, by 5", "a bit above, by 5"],
    ["bvii and biv", "♭vii and ♭iv"],
  ])("%s", (text, expected) => {
    expect(drawn(text)).toBe(expected);
  });
});
