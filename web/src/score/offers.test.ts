import { describe, expect, it } from "vitest";
import { agreeing, mendedBy, type Offer, offerAt } from "./offers";

const offer = (number: number, tick: number, more: Partial<Offer> = {}): Offer =>
  ({
    number,
    note: { id: `o${number}`, tick, ticks: 100, string: 2 },
    band: "sure",
    blocked: "",
    places: [
      { string: 2, fret: 5 },
      { string: 3, fret: 9 },
    ],
    ...more,
  }) as unknown as Offer;

describe("offers", () => {
  const offers = [
    offer(0, 0),
    offer(1, 100),
    offer(2, 100, { note: { id: "o2", tick: 100, ticks: 100, string: 3 } as Offer["note"] }),
  ];

  it("a key is for the first offer at the cursor or behind it", () => {
    expect(offerAt(offers, 0, 1)?.number).toBe(0);
    expect(offerAt(offers, 1, 1)?.number).toBe(1);
    expect(offerAt(offers, 101, 1)).toBeNull();
  });

  it("of several that start together it is for the one on the cursor's string", () => {
    expect(offerAt(offers, 50, 3)?.number).toBe(2);
  });

  it("a place agrees with a sure offer of its pitch at about its tick", () => {
    expect(agreeing(offers, { string: 3, fret: 9 }, 10, 50)?.number).toBe(0);
    expect(agreeing(offers, { string: 3, fret: 8 }, 10, 50)).toBeNull();
    expect(agreeing(offers, { string: 2, fret: 5 }, 50, 50)).toBeNull();
    expect(agreeing([offer(0, 0, { band: "likely" })], { string: 2, fret: 5 }, 0, 50)).toBeNull();
    expect(agreeing([offer(0, 0, { blocked: "no" })], { string: 2, fret: 5 }, 0, 50)).toBeNull();
  });

  it("what is put right adds up, an offer at a time", () => {
    const once = mendedBy([], { number: 3, midi: 64 });
    const twice = mendedBy(once, { number: 3, moving: "slide" });
    expect(twice).toEqual([{ number: 3, midi: 64, moving: "slide", at: null }]);
    expect(mendedBy(twice, { number: 1, midi: 60 })).toHaveLength(2);
  });
});
