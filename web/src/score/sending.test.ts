import { beforeEach, describe, expect, it, vi } from "vitest";
import openapi from "../../openapi.json";
import type { LeftOut } from "./outbox";
import type { Bench, Edit } from "./types";

const stored: Edit[] = [];
const asides: LeftOut[] = [];
vi.mock("./outbox", () => ({
  keep: (_: string, edit: Edit) => {
    stored.push(edit);
    return Promise.resolve();
  },
  waiting: () => Promise.resolve([...stored]),
  revise: () => Promise.resolve(),
  leftOut: () => Promise.resolve([...asides]),
  leaveOut: (_: string, acts: LeftOut[]) => {
    asides.push(...acts);
    const ids = acts.flatMap((one) => one.edits.map((edit) => edit.id));
    stored.splice(0, stored.length, ...stored.filter((edit) => !ids.includes(edit.id)));
    return Promise.resolve();
  },
  dropLeftOut: (_: string, acts: Set<string>) => {
    asides.splice(0, asides.length, ...asides.filter((one) => !acts.has(one.act)));
    return Promise.resolve();
  },
  drop: (_: string, ids: Set<string>) => {
    stored.splice(0, stored.length, ...stored.filter((edit) => !ids.has(edit.id)));
    return Promise.resolve();
  },
}));

class News {
  static last: News;
  onmessage: (event: { data: string }) => void = () => undefined;
  onopen = (): void => undefined;
  onerror = (): void => undefined;
  constructor() {
    News.last = this;
  }
  close() {
    /* nothing is open */
  }
}
vi.stubGlobal("EventSource", News);

// The client takes the browser's fetch and Request when it is loaded, so they are replaced before that.
type Sent = { url: string; body: { edits?: Edit[]; versions: Record<string, number> } };
const sent: Sent[] = [];
let respond: (request: Sent) => Promise<Response> | Response = () => Response.json({});
vi.stubGlobal("fetch", async (request: Request) => {
  if (request.method === "GET") return Response.json(bench);
  const one = { url: request.url, body: (await request.json()) as Sent["body"] };
  sent.push(one);
  return respond(one);
});
vi.stubGlobal(
  "Request",
  class extends Request {
    constructor(input: string | URL | Request, init?: RequestInit) {
      super(typeof input === "string" ? new URL(input, "http://here") : input, init);
    }
  },
);
const { atHand, setCursor } = await import("./cursor");
const { openDocument } = await import("./document");
const { useSaving } = await import("./saving");
const { act, closeSolo, dropLeftOut, hurry, inTurn, openSolo, sendAgain, tryAgain, undo } = await import("./sending");
const { plainNote } = await import("./elements");

const note = (id: string, tick: number) => plainNote(id, tick, 5040, 2, 5);
const bench = {
  solo_id: "solo",
  ground_id: "ground",
  person: "me",
  tune: "t",
  versions: { solo: 0, ground: 0 },
  solo: {
    settings: { first_bar: 1 },
    notes: [],
    rests: [],
    phrases: [],
    questions: [],
    stacks: [],
    dynamics: [],
    swells: [],
    choices: [],
    remarks: [],
    plan: [],
  },
  ground: {
    settings: { bars: 4 },
    anchors: [
      { id: "a", tick: 0, second: 0 },
      { id: "b", tick: 10_080, second: 0.5 },
    ],
  },
  strip: { bars: [{ number: 1, tick: 0, end: 40_320, beats: [] }], chords: [] },
  tables: { lengths: [], strings: [], frets: 22 },
  views: {},
  violations: [],
  history: { undo: null, redo: null },
} as unknown as Bench;
const answer = (change: object = {}) => ({
  since: { solo: 0, ground: 0 },
  versions: { solo: 1, ground: 0 },
  edits: [],
  refused: [],
  progress: {},
  messages: [],
  views: {},
  whole: false,
  strip: null,
  tables: null,
  violations: [],
  history: { undo: "x", redo: null },
  ...change,
});
const write = (id: string, tick: number) => ({
  label: "write a note",
  picked: id,
  changes: [{ kind: "note" as const, id, before: null, after: note(id, tick) as never }],
});

// A small server: what it takes is in its log, and every answer leads on from the versions that the page named.
const log: Edit[] = [];
const taken = (
  { body }: Sent,
  refused: {
    act: string;
    edits: string[];
    code: string;
    sentence: string;
    where: object;
    now?: unknown;
    rests_on: string | null;
  }[] = [],
) => {
  const out = refused.flatMap((one) => one.edits);
  log.push(...(body.edits ?? []).filter((edit) => !out.includes(edit.id) && !log.some(({ id }) => id === edit.id)));
  const since = body.versions["solo"] ?? 0;
  return answer({
    since: { solo: since, ground: 0 },
    versions: { solo: log.length, ground: 0 },
    edits: log.slice(since),
    refused,
  });
};
const others = (...changes: object[]) =>
  log.push({ id: `other-${log.length}`, act: "other", document: "solo", changes, follows: [] } as unknown as Edit);
const refuse = (title: string, code: string, status: number) =>
  Response.json({ title, code, status, type: "", where: {} }, { status });

beforeEach(async () => {
  stored.length = sent.length = asides.length = 0;
  log.length = 0;
  respond = (one) => Response.json(taken(one));
  closeSolo();
  await openSolo("solo");
});

// Every error code that the api can answer, as its description lists them.
const CODES = openapi.components.schemas.Problem.properties.code.enum;
const OF_ALL = ["not-there", "solo-removed", "host-unknown", "origin-refused", "no-such-address", "method-unknown"];

const settle = () => vi.waitFor(() => expect(useSaving.getState().sending).toBe("saved"));

describe("the open solo", () => {
  it("shows an edit at once and keeps it until it is answered", async () => {
    act(write("n", 0));
    expect(Object.keys(openDocument().elements.notes)).toEqual(["n"]);
    expect(openDocument().unanswered.has("n")).toBe(true);
    await settle();
    expect(stored).toEqual([]);
    expect(openDocument().unanswered.size).toBe(0);
    expect(openDocument().versions).toEqual({ solo: 1, ground: 0 });
  });
  it("has one request in flight; what is made meanwhile goes together in the next", async () => {
    let open = (): void => undefined;
    const gate = new Promise<void>((resolve) => {
      open = resolve;
    });
    respond = async (one) => {
      await gate;
      return Response.json(taken(one));
    };
    act(write("a", 0));
    await vi.waitFor(() => expect(sent).toHaveLength(1));
    act(write("b", 5040));
    act(write("c", 10_080));
    expect(sent).toHaveLength(1);
    open();
    await settle();
    expect(sent.map((one) => one.body.edits?.length)).toEqual([1, 2]);
  });
  it("keeps edits while the server is away, and sends them with the same ids when it is back", async () => {
    vi.useFakeTimers();
    respond = () => {
      throw new TypeError("no network");
    };
    act(write("n", 0));
    await vi.waitFor(() => expect(useSaving.getState().sending).toBe("away"));
    expect(stored).toHaveLength(1);
    respond = (one) => Response.json(taken(one));
    await vi.advanceTimersByTimeAsync(2_000);
    vi.useRealTimers();
    await settle();
    expect(new Set(sent.flatMap((one) => one.body.edits?.map((edit) => edit.id) ?? [])).size).toBe(1);
    expect(stored).toEqual([]);
  });
  it("applies again after opening what was not answered before", async () => {
    respond = () => {
      throw new TypeError("no network");
    };
    act(write("n", 0));
    await vi.waitFor(() => expect(useSaving.getState().sending).toBe("away"));
    closeSolo();
    respond = (one) => Response.json(taken(one));
    await openSolo("solo");
    expect(Object.keys(openDocument().elements.notes)).toEqual(["n"]);
    await settle();
  });
  it("leaves a refused act out with its reason, and takes the others", async () => {
    respond = (one) =>
      Response.json(
        taken(
          one,
          (one.body.edits ?? [])
            .filter(({ changes }) => changes[0]?.id === "bad")
            .map((edit) => ({
              act: edit.act,
              edits: [edit.id],
              code: "rule-broken",
              sentence: "At 1:1: There is no fret 23.",
              where: { place: "1:1" },
              rests_on: null,
            })),
        ),
      );
    act(write("good", 0));
    act(write("bad", 10_080));
    act(write("fine", 20_160));
    await settle();
    const state = useSaving.getState();
    expect(Object.keys(openDocument().elements.notes)).toEqual(["good", "fine"]);
    expect(state.leftOut.map((one) => [one.code, one.place])).toEqual([["rule-broken", "1:1"]]);
    expect(state.trouble).toBe("“write a note” was left out. At 1:1: There is no fret 23.");
    expect([stored, asides.length]).toEqual([[], 1]);
    closeSolo();
    await openSolo("solo");
    expect(useSaving.getState().leftOut).toHaveLength(1); // closing the page keeps the list
    const [one] = useSaving.getState().leftOut as [LeftOut];
    respond = (request) => Response.json(taken(request));
    sendAgain(one);
    await settle();
    await vi.waitFor(() => expect(asides).toEqual([]));
    expect(Object.keys(openDocument().elements.notes)).toContain("bad");
  });
  it("drops what was left out when asked", async () => {
    respond = (one) =>
      Response.json(
        taken(
          one,
          (one.body.edits ?? []).map((edit) => ({
            act: edit.act,
            edits: [edit.id],
            code: "rule-broken",
            sentence: "no",
            where: {},
            rests_on: null,
          })),
        ),
      );
    act(write("n", 0));
    await vi.waitFor(() => expect(useSaving.getState().leftOut).toHaveLength(1));
    await dropLeftOut(useSaving.getState().leftOut[0] as LeftOut);
    expect([useSaving.getState().leftOut, asides]).toEqual([[], []]);
  });
  it.each(CODES.filter((code) => !OF_ALL.includes(code) && !["store-away", "store-full", "page-ahead"].includes(code)))(
    "finds the act that a whole request is refused for: %s",
    async (code) => {
      respond = (one) =>
        one.body.edits?.some(({ changes }) => changes[0]?.id === "bad")
          ? refuse("No.", code, 422)
          : Response.json(taken(one));
      for (const [at, id] of ["a", "b", "bad", "c"].entries()) act(write(id, at * 10_080));
      await settle();
      expect(Object.keys(openDocument().elements.notes)).toEqual(["a", "b", "c"]);
      expect(useSaving.getState().leftOut.map((one) => one.code)).toEqual([code]);
      expect(log.map(({ changes }) => changes[0]?.id)).toEqual(["a", "b", "c"]);
    },
  );
  it.each(OF_ALL)("stops with a sentence and keeps everything where no edit is at fault: %s", async (code) => {
    respond = () => refuse("This solo is not here any more.", code, 404);
    act(write("a", 0));
    act(write("b", 10_080));
    await vi.waitFor(() => expect(useSaving.getState().sending).toBe("refused"));
    expect([useSaving.getState().trouble, useSaving.getState().leftOut, stored.length]).toEqual([
      "This solo is not here any more.",
      [],
      2,
    ]);
    respond = (one) => Response.json(taken(one));
    tryAgain();
    await settle();
    expect(log).toHaveLength(2);
  });
  it("loads what is stored when a backup was brought back under it, and keeps what waits", async () => {
    act(write("a", 0));
    await settle();
    log.length = 0;
    respond = (one) =>
      (one.body.versions["solo"] ?? 0) > log.length
        ? refuse("An earlier state is stored.", "page-ahead", 409)
        : Response.json(taken(one));
    act(write("b", 10_080));
    await settle();
    expect(Object.keys(openDocument().elements.notes)).toEqual(["b"]);
  });
  it("runs what is done during an undo after it, and leaves the cursor to the person", async () => {
    act(write("n", 10_080));
    await settle();
    let open = (): void => undefined;
    const gate = new Promise<void>((resolve) => {
      open = resolve;
    });
    const order: string[] = [];
    respond = async (one) => {
      order.push(one.url.includes("/undo") ? "undo" : "edits");
      if (!one.url.includes("/undo")) return Response.json(taken(one));
      await gate;
      others({ kind: "note", id: "n", before: note("n", 10_080), after: null });
      return Response.json(taken({ ...one, body: { versions: one.body.versions } }));
    };
    const back = undo();
    inTurn(() => {
      order.push(`sees ${Object.keys(openDocument().elements.notes).length}`);
      act(write("m", 0));
    });
    setCursor({ tick: 30_240, string: 3 });
    expect(openDocument().elements.notes["m"]).toBeUndefined();
    open();
    expect(await back).toBe(true);
    await settle();
    expect(order).toEqual(["undo", "sees 0", "edits"]);
    expect(Object.keys(openDocument().elements.notes)).toEqual(["m"]);
    expect(atHand().cursor).toEqual({ tick: 30_240, string: 3 });
  });
  it("does what waits behind an undo at once when the page goes, so that it is kept", async () => {
    respond = (one) => (one.url.includes("/undo") ? new Promise(() => undefined) : Response.json(taken(one)));
    void undo();
    inTurn(() => act(write("m", 0)));
    expect(stored).toEqual([]);
    hurry();
    expect(stored.map(({ changes }) => changes[0]?.id)).toEqual(["m"]);
    closeSolo(); // and what never answers holds nobody up who opens a solo later
    await openSolo("solo");
    await settle();
    expect(log.map(({ changes }) => changes[0]?.id)).toEqual(["m"]);
  });
  it("says that an undo needs the server when it is away, and lets what waited behind it go on", async () => {
    respond = () => {
      throw new TypeError("no network");
    };
    act(write("n", 0));
    await vi.waitFor(() => expect(useSaving.getState().sending).toBe("away"));
    const back = undo();
    inTurn(() => act(write("m", 10_080)));
    expect(await back).toBe(false);
    expect(useSaving.getState().trouble).toContain("The server does not answer, so this was not done.");
    await vi.waitFor(() => expect(Object.keys(openDocument().elements.notes)).toEqual(["n", "m"]));
    closeSolo();
  });
  it("asks nothing else while an undo is under way, so that an older answer never lies over a newer", async () => {
    let open = (): void => undefined;
    const gate = new Promise<void>((resolve) => {
      open = resolve;
    });
    respond = async ({ url }) => {
      if (url.includes("/undo")) {
        await gate;
        others();
        others();
        return Response.json(answer({ versions: { solo: 2, ground: 0 } }));
      }
      return Response.json(answer({ since: { solo: 2, ground: 0 }, versions: { solo: 3, ground: 0 } }));
    };
    const done = undo();
    await vi.waitFor(() => expect(sent).toHaveLength(1));
    News.last.onmessage({ data: JSON.stringify({ document: "solo", version: 2 }) });
    act(write("n", 0));
    await new Promise((wake) => setTimeout(wake, 20));
    expect(sent).toHaveLength(1);
    open();
    expect(await done).toBe(true);
    await settle();
    expect(sent.map((one) => /undo|edits/.exec(one.url)?.[0])).toEqual(["undo", "edits"]);
    expect(sent[1]?.body.versions).toEqual({ solo: 2, ground: 0 });
  });
  it("asks for what it lacks when it hears of a newer version, and not for its own", async () => {
    News.last.onmessage({ data: JSON.stringify({ document: "solo", version: 0 }) });
    expect(sent).toHaveLength(0);
    others({ kind: "note", id: "m", before: null, after: note("m", 0) });
    News.last.onmessage({ data: JSON.stringify({ document: "solo", version: 1 }) });
    await vi.waitFor(() => expect(Object.keys(openDocument().elements.notes)).toEqual(["m"]));
    expect(sent).toHaveLength(1);
    News.last.onerror();
    News.last.onopen(); // some news may have been missed meanwhile
    await vi.waitFor(() => expect(sent).toHaveLength(2));
  });
  it("leaves a question open when it hears of others meanwhile", async () => {
    respond = () =>
      Response.json(
        {
          title: "cannot be taken back",
          code: "edit-conflict",
          status: 409,
          type: "",
          now: null,
          where: { kind: "note", id: "n", rest: "possible" },
        },
        { status: 409 },
      );
    await undo();
    expect(useSaving.getState().clash).toEqual({ sentence: "cannot be taken back", rest: true });
    respond = () => Response.json(answer({ versions: { solo: 5, ground: 0 } }));
    News.last.onmessage({ data: JSON.stringify({ document: "solo", version: 5 }) });
    await vi.waitFor(() => expect(openDocument().versions).toEqual({ solo: 5, ground: 0 }));
    expect(useSaving.getState().clash).not.toBeNull();
    expect(useSaving.getState().trouble).toBe("cannot be taken back");
  });
  it.each([true, false])(
    "tries a change that another changed too again, over theirs or as it was (over: %s)",
    async (over) => {
      const theirs = note("n", 5040);
      others({ kind: "note", id: "n", before: null, after: theirs });
      respond = (one) =>
        Response.json(
          taken(
            one,
            (one.body.edits ?? [])
              .filter(({ changes }) => changes[0]?.id === "n" && changes[0].before == null)
              .map((edit) => ({
                act: edit.act,
                edits: [edit.id],
                code: "edit-conflict",
                sentence: "changed",
                where: { kind: "note", id: "n" },
                now: theirs,
                rests_on: null,
              })),
          ),
        );
      act(write("n", 0));
      act(write("later", 20_160));
      await settle();
      expect(useSaving.getState().leftOut).toMatchObject([{ kind: "note", id: "n", now: theirs }]);
      expect(Object.keys(openDocument().elements.notes)).toEqual(["n", "later"]);
      sendAgain(useSaving.getState().leftOut[0] as LeftOut, over);
      await vi.waitFor(() => expect(useSaving.getState().leftOut).toHaveLength(over ? 0 : 1));
      await settle();
      expect(openDocument().elements.notes["n"]?.tick).toBe(over ? 0 : 5040);
    },
  );
  it("takes in what others did and drops labels of notes that are gone", async () => {
    act(write("n", 0));
    await settle();
    others(
      { kind: "note", id: "m", before: null, after: note("m", 5040) },
      { kind: "note", id: "n", before: note("n", 0), after: null },
    );
    respond = (one) => Response.json({ ...taken(one), views: { m: { id: "m" }, n: null } });
    act(write("k", 20_160));
    await settle();
    expect(Object.keys(openDocument().elements.notes).sort()).toEqual(["k", "m"]);
    expect(Object.keys(openDocument().views)).toEqual(["m"]);
  });
  it("sends what waits before it asks for an undo, and shows what was taken back", async () => {
    act(write("n", 10_080));
    respond = (one) => {
      if (!one.url.includes("/undo?")) return Response.json(taken(one));
      others({ kind: "note", id: "n", before: note("n", 10_080), after: null });
      return Response.json({ ...taken(one), views: { n: null } });
    };
    expect(await undo()).toBe(true);
    expect(sent.map((one) => new URL(one.url).pathname.split("/").pop())).toEqual(["edits", "undo"]);
    expect(openDocument().elements.notes).toEqual({});
    expect(atHand().cursor).toEqual({ tick: 10_080, string: 2 });
  });
});
