import { beforeEach, describe, expect, it, vi } from "vitest";

vi.mock("@/score/outbox", () => ({
  keep: () => Promise.resolve(),
  waiting: () => Promise.resolve([]),
  drop: () => Promise.resolve(),
  revise: () => Promise.resolve(),
  leftOut: () => Promise.resolve([]),
}));
vi.stubGlobal("matchMedia", () => ({ matches: false }));
vi.stubGlobal("localStorage", { getItem: () => null });
vi.stubGlobal(
  "EventSource",
  class {
    close() {
      /* nothing is open */
    }
  },
);
vi.stubGlobal(
  "Request",
  class extends Request {
    constructor(input: string | URL | Request, init?: RequestInit) {
      super(typeof input === "string" ? new URL(input, "http://here") : input, init);
    }
  },
);
vi.stubGlobal("fetch", (request: Request) =>
  request.method === "GET" ? Promise.resolve(Response.json(bench)) : Promise.reject(new TypeError("no network")),
);

const { holdStay, writeAt, writeDigit } = await import("./writing");
const { atHand, nextNote, setCursor } = await import("@/score/cursor");
const { openDocument } = await import("@/score/document");
const { entryNow, setEntry, setLatch } = await import("@/score/entry");
const { useSaving } = await import("@/score/saving");
const { closeSolo, openSolo } = await import("@/score/sending");

const EIGHTH = 5040;
const bench = {
  solo_id: "solo",
  ground_id: "ground",
  person: "me",
  versions: { solo: 0, ground: 0 },
  views: {},
  history: { undo: null, redo: null },
  ground: {
    settings: {},
    anchors: [
      { id: "a", tick: 0, second: 0 },
      { id: "b", tick: 10_080, second: 0.5 },
    ],
  },
  strip: { bars: [{ number: 1, tick: 0, end: 40_320, beats: [] }], chords: [] },
  solo: {
    settings: { bottleneck: false, first_bar: 1 },
    notes: [],
    rests: [],
    stacks: [],
    phrases: [],
    questions: [],
    dynamics: [],
    choices: [],
    remarks: [],
    plan: [],
    swells: [],
  },
  tables: {
    lengths: [40_320, 20_160, 10_080, EIGHTH, 2520].map((ticks) => ({
      ticks,
      dotted: (ticks * 3) / 2,
      triplet: (ticks * 2) / 3,
      tuplets: [5, 6, 7].map((count) => ({ count, ticks: (ticks * 4) / count })),
    })),
    strings: [1, 2, 3, 4, 5, 6],
    frets: 22,
  },
};
const notes = () => Object.values(openDocument().elements.notes).sort((a, b) => a.tick - b.tick || a.string - b.string);
const places = () => notes().map((note) => [note.tick, note.string, (note.fret ?? 0) / 100]);

beforeEach(async () => {
  closeSolo();
  await openSolo("solo");
});

describe("writing at the cursor", () => {
  it("writes one note with the current length and moves on", () => {
    writeAt({ string: 2, fret: 5 }, false);
    writeAt({ string: 3, fret: 7 }, false);
    expect(places()).toEqual([
      [0, 2, 5],
      [EIGHTH, 3, 7],
    ]);
    expect(atHand().cursor).toEqual({ tick: 2 * EIGHTH, string: 3 });
    expect(atHand().picked).toBe(notes()[1]?.id);
  });
  it("takes the length in force: dotted, or in a triplet", () => {
    setEntry({ length: 2, dot: true });
    writeAt({ string: 2, fret: 5 }, false);
    setEntry({ dot: false, triplet: true });
    writeAt({ string: 2, fret: 6 }, false);
    expect(notes().map((note) => note.ticks)).toEqual([15_120, 6720]);
  });
  it("stays for a stack, and lets go of the latch after one note", () => {
    writeAt({ string: 2, fret: 5 }, false);
    setLatch("stay");
    writeAt({ string: 3, fret: 5 }, false);
    writeAt({ string: 2, fret: 7 }, false);
    expect(places()).toEqual([
      [0, 2, 5],
      [0, 3, 5],
      [EIGHTH, 2, 7],
    ]);
    expect(notes()[0]?.stack).toBe(notes()[1]?.stack);
    expect(entryNow().latches.stay).toBe(false);
  });
  it("writes a chord with one key a string while stay is held, and moves on when it is let go", () => {
    writeAt({ string: 3, fret: 5 }, false);
    setLatch("stay");
    holdStay(true);
    for (const string of [2, 1, 4]) writeAt({ string, fret: 5 }, false);
    holdStay(false);
    writeAt({ string: 2, fret: 7 }, false);
    expect(places()).toEqual([
      [0, 1, 5],
      [0, 2, 5],
      [0, 3, 5],
      [0, 4, 5],
      [EIGHTH, 2, 7],
    ]);
    holdStay(true); // pressed and let go at once: a latch for one
    holdStay(false);
    expect(entryNow().latches.stay).toBe(false);
  });
  it("joins by its latch and by shift", () => {
    writeAt({ string: 2, fret: 5 }, false);
    setLatch("join");
    writeAt({ string: 2, fret: 7 }, false);
    writeAt({ string: 2, fret: 5 }, true);
    expect(notes().map((note) => note.attack.kind)).toEqual(["picked", "hammer-on", "pull-off"]);
  });
  it("joins a second digit to the first while the cursor has not moved and the fret exists", () => {
    setCursor({ string: 3 });
    writeDigit(1, false);
    writeDigit(2, false);
    writeDigit(3, false); // a third begins anew
    writeDigit(9, false); // there is no fret 39
    expect(places()).toEqual([
      [0, 3, 12],
      [EIGHTH, 3, 3],
      [2 * EIGHTH, 3, 9],
    ]);
    setCursor({ tick: 4 * EIGHTH });
    writeDigit(1, false);
    setCursor({ tick: 6 * EIGHTH });
    writeDigit(2, false);
    expect(places().slice(3)).toEqual([
      [4 * EIGHTH, 3, 1],
      [6 * EIGHTH, 3, 2],
    ]);
  });
  it("says where the strip ends and writes nothing there", () => {
    setCursor({ tick: 40_320 });
    writeAt({ string: 2, fret: 5 }, false);
    expect(notes()).toEqual([]);
    expect(useSaving.getState().trouble).toContain("The strip ends here");
  });
  it("goes from note to note", () => {
    for (const fret of [5, 6, 7]) writeAt({ string: 2, fret }, false);
    setCursor({ tick: 0 });
    nextNote(1);
    nextNote(1);
    expect(atHand().picked).toBe(notes()[1]?.id);
    nextNote(-1);
    expect(atHand().cursor.tick).toBe(0);
  });
});
