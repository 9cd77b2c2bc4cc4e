import { describe, expect, it } from "vitest";
import cases from "./stand_cases.gen.json";
import { tickAt } from "./places";
import { passed } from "./stand";

describe("where a pass leads", () => {
  it("agrees with the core", () => {
    expect(cases.length).toBeGreaterThan(100);
    for (const { before, steps, passes, clean, after } of cases) {
      const [step = 0, done = 0, missed = 0] = before;
      const found = passed({ step, clean: done, missed }, steps, passes, clean);
      expect([found.step, found.clean, found.missed], JSON.stringify({ before, steps, passes, clean })).toEqual(after);
    }
  });
});

describe("where a second stands", () => {
  const places = [
    { tick: 0, second: 1 },
    { tick: 100, second: 2 },
    { tick: 300, second: 3 },
  ];
  it("is linear between places and goes on outside them", () => {
    expect([0.5, 1, 1.5, 2.5, 3, 3.5].map((second) => tickAt(places, second))).toEqual([-50, 0, 50, 200, 300, 400]);
  });
});
