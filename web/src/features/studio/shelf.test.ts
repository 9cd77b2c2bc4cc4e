import { describe, expect, it } from "vitest";
import { inOrder, named, openOver, type Solo } from "./shelf";

const solo = (tune: string, more: Partial<Solo> = {}): Solo => ({
  id: tune,
  tune,
  title: "",
  player: null,
  has_sound: false,
  bars: [],
  written: "",
  next: "",
  check: null,
  doubtful: false,
  questions: 0,
  disputed: false,
  touched_at: "2026-12-01T10:00:00Z",
  removed: false,
  ...more,
});

describe("the shelf", () => {
  const solos = [
    solo("Ferry Bell", { player: "Zoé Brandt", questions: 2, check: { open: 1, done: 0.5 } }),
    solo("Anchor", { player: "Ada Moor", touched_at: "2026-12-02T10:00:00Z" }),
    solo("Gull", { player: "Zoé Brandt", check: { open: 3, done: 1 } }),
  ];
  const tunes = (order: Parameters<typeof inOrder>[1]) =>
    inOrder(solos, order).flatMap((group) => group.solos.map(({ tune }) => tune));

  it("finds by any words of tune, title and player, without accents and capitals", () => {
    expect(solos.filter((one) => named(one, "zoe BELL")).map(({ tune }) => tune)).toEqual(["Ferry Bell"]);
    expect(solos.filter((one) => named(one, ""))).toHaveLength(3);
    expect(solos.filter((one) => named(one, "nobody"))).toHaveLength(0);
  });
  it("groups by player, or stands in one list", () => {
    expect(inOrder(solos, "player").map(({ heading }) => heading)).toEqual(["Zoé Brandt", "Ada Moor"]);
    expect(tunes("tune")).toEqual(["Anchor", "Ferry Bell", "Gull"]);
    expect(tunes("last worked on")[0]).toBe("Anchor");
    expect(tunes("open questions")).toEqual(["Ferry Bell", "Gull", "Anchor"]);
  });
  it("says what is open over all of them", () => {
    expect(openOver(solos)).toBe("2 open questions in 1 solo, 4 findings in 2 solos");
    expect(openOver([solo("x")])).toBe("");
  });
});
