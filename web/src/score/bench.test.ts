import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Bench, Edit } from "./types";

const stored: Edit[] = [];
vi.mock("./outbox", () => ({
  keep: (_: string, edit: Edit) => { stored.push(edit); return Promise.resolve(); },
  waiting: () => Promise.resolve([...stored]),
  drop: (_: string, ids: Set<string>) => { stored.splice(0, stored.length, ...stored.filter((edit) => !ids.has(edit.id))); return Promise.resolve(); },
  replace: (_: string, id: string, edit: Edit | null) => { const at = stored.findIndex((one) => one.id === id); stored.splice(at, 1, ...(edit === null ? [] : [edit])); return Promise.resolve(); },
  layAside: () => { stored.length = 0; return Promise.resolve(1); },
}));

class News { static last: News; onmessage: (event: { data: string }) => void = () => undefined; onopen = (): void => undefined; onerror = (): void => undefined; constructor() { News.last = this; } close() { /* nothing is open */ } }
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
vi.stubGlobal("Request", class extends Request { constructor(input: string | URL | Request, init?: RequestInit) { super(typeof input === "string" ? new URL(input, "http://here") : input, init); } });
const { act, closeSolo, decide, loadAnew, openSolo, undo, useBench } = await import("./bench");
const { plainNote } = await import("./edits");

const note = (id: string, tick: number) => plainNote(id, tick, 5040, 2, 5);
const bench = {
  solo_id: "solo", ground_id: "ground", person: "me", tune: "t", versions: { solo: 0, ground: 0 },
  solo: { settings: { first_bar: 1 }, notes: [], rests: [], phrases: [], questions: [], stacks: [], dynamics: [], swells: [] },
  ground: { settings: { bars: 4 }, anchors: [{ id: "a", tick: 0, second: 0 }, { id: "b", tick: 10_080, second: 0.5 }] },
  strip: { bars: [{ number: 1, tick: 0, end: 40_320, beats: [] }], chords: [] }, tables: { lengths: [], strings: [], frets: 22 },
  marks: {}, misfits: [], history: { undo: null, redo: null },
} as unknown as Bench;
const answer = (change: object = {}) => ({ versions: { solo: 1, ground: 0 }, edits: [], marks: {}, whole: false, strip: null, tables: null, misfits: [], history: { undo: "x", redo: null }, ...change });
const write = (id: string, tick: number) => ({ label: "write a note", picked: id, changes: [{ kind: "note" as const, id, before: null, after: note(id, tick) as never }] });

const refuse = (title: string, code: string, status: number) => Response.json({ title, code, status, type: "", where: {} }, { status });

beforeEach(async () => {
  stored.length = sent.length = 0;
  respond = () => Response.json(answer());
  closeSolo();
  await openSolo("solo");
});

const settle = () => vi.waitFor(() => expect(useBench.getState().sending).toBe("saved"));

describe("the open solo", () => {
  it("shows an edit at once and keeps it until it is answered", async () => {
    act(write("n", 0));
    expect(Object.keys(useBench.getState().things.notes)).toEqual(["n"]);
    expect(useBench.getState().unanswered.has("n")).toBe(true);
    await settle();
    expect(stored).toEqual([]);
    expect(useBench.getState().unanswered.size).toBe(0);
    expect(useBench.getState().versions).toEqual({ solo: 1, ground: 0 });
  });
  it("has one request in flight; what is made meanwhile goes together in the next", async () => {
    let open = (): void => undefined;
    const gate = new Promise<void>((resolve) => { open = resolve; });
    respond = async () => { await gate; return Response.json(answer()); };
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
    respond = () => { throw new TypeError("no network"); };
    act(write("n", 0));
    await vi.waitFor(() => expect(useBench.getState().sending).toBe("away"));
    expect(stored).toHaveLength(1);
    respond = () => Response.json(answer());
    await vi.advanceTimersByTimeAsync(2_000);
    vi.useRealTimers();
    await settle();
    expect(new Set(sent.flatMap((one) => one.body.edits?.map((edit) => edit.id) ?? [])).size).toBe(1);
    expect(stored).toEqual([]);
  });
  it("applies again after opening what was not answered before", async () => {
    respond = () => { throw new TypeError("no network"); };
    act(write("n", 0));
    await vi.waitFor(() => expect(useBench.getState().sending).toBe("away"));
    closeSolo();
    respond = () => Response.json(answer());
    await openSolo("solo");
    expect(Object.keys(useBench.getState().things.notes)).toEqual(["n"]);
    await settle();
  });
  it("says a refusal in the server's words and lays the edits aside when asked", async () => {
    respond = () => refuse("The note that you changed has been changed elsewhere in the meantime.", "edit-conflict", 409);
    act(write("n", 0));
    await vi.waitFor(() => expect(useBench.getState().trouble).toContain("changed elsewhere"));
    expect(stored).toHaveLength(1);
    await loadAnew();
    expect(useBench.getState().things.notes).toEqual({});
    expect(useBench.getState().sending).toBe("saved");
  });
  it("asks nothing else while an undo is under way, so that an older answer never lies over a newer", async () => {
    let open = (): void => undefined;
    const gate = new Promise<void>((resolve) => { open = resolve; });
    respond = async ({ url }) => {
      if (url.includes("/undo")) await gate;
      return Response.json(answer({ versions: { solo: 2, ground: 0 } }));
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
    respond = () => Response.json(answer({ versions: { solo: 3, ground: 0 }, edits: [{ document: "solo", changes: [{ kind: "note", id: "m", before: null, after: note("m", 0) }] }] }));
    News.last.onmessage({ data: JSON.stringify({ document: "solo", version: 3 }) });
    await vi.waitFor(() => expect(Object.keys(useBench.getState().things.notes)).toEqual(["m"]));
    expect(sent).toHaveLength(1);
    News.last.onerror();
    News.last.onopen(); // some news may have been missed meanwhile
    await vi.waitFor(() => expect(sent).toHaveLength(2));
  });
  it("leaves a question open when it hears of others meanwhile", async () => {
    respond = () => Response.json({ title: "cannot be taken back", code: "edit-conflict", status: 409, type: "", now: null, where: { kind: "note", id: "n", rest: "possible" } }, { status: 409 });
    await undo();
    expect(useBench.getState().clash).toMatchObject({ edit: null, rest: true });
    respond = () => Response.json(answer({ versions: { solo: 5, ground: 0 } }));
    News.last.onmessage({ data: JSON.stringify({ document: "solo", version: 5 }) });
    await vi.waitFor(() => expect(useBench.getState().versions).toEqual({ solo: 5, ground: 0 }));
    expect(useBench.getState().clash).not.toBeNull();
    expect(useBench.getState().trouble).toBe("cannot be taken back");
  });
  it.each([true, false])("asks which of two values is to stand (mine: %s)", async (mine) => {
    const theirs = note("n", 5040);
    respond = ({ body }) => body.edits?.[0]?.changes[0]?.before === null
      ? Response.json({ title: "changed", code: "edit-conflict", status: 409, type: "", now: theirs, where: { kind: "note", id: "n", edit: body.edits[0].id } }, { status: 409 })
      : Response.json(answer());
    act(write("n", 0));
    act(write("later", 20_160));
    await vi.waitFor(() => expect(useBench.getState().clash).toMatchObject({ kind: "note", id: "n", mine: note("n", 0), theirs }));
    respond = () => Response.json(answer());
    await decide(mine);
    await settle();
    const made = sent[sent.length - 1]?.body.edits ?? [];
    expect(made.map((edit) => edit.changes[0]?.before ?? null)).toEqual(mine ? [theirs, null] : [null]);
  });
  it("takes in what others did and drops labels of notes that are gone", async () => {
    act(write("n", 0));
    await settle();
    const theirs = { document: "solo", changes: [{ kind: "note", id: "m", before: null, after: note("m", 5040) }, { kind: "note", id: "n", before: note("n", 0), after: null }] };
    respond = () => Response.json(answer({ edits: [theirs], marks: { m: { id: "m" }, n: null } }));
    act(write("k", 20_160));
    await settle();
    expect(Object.keys(useBench.getState().things.notes).sort()).toEqual(["k", "m"]);
    expect(Object.keys(useBench.getState().marks)).toEqual(["m"]);
  });
  it("sends what waits before it asks for an undo, and shows what was taken back", async () => {
    act(write("n", 10_080));
    const gone = { document: "solo", changes: [{ kind: "note", id: "n", before: note("n", 10_080), after: null }] };
    respond = (one) => Response.json(one.url.includes("/undo?") ? answer({ edits: [gone], marks: { n: null } }) : answer());
    expect(await undo()).toBe(true);
    expect(sent.map((one) => new URL(one.url).pathname.split("/").pop())).toEqual(["edits", "undo"]);
    expect(useBench.getState().things.notes).toEqual({});
    expect(useBench.getState().cursor).toEqual({ tick: 10_080, string: 2 });
  });
});
