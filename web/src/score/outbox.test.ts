import "fake-indexeddb/auto";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Edit } from "./types";

const kept = new Map<string, string>();
let full = false;
const storage = {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, text: string) => {
    if (full) throw new DOMException("full", "QuotaExceededError");
    kept.set(key, text);
  },
  removeItem: (key: string) => {
    kept.delete(key);
  },
};
vi.stubGlobal(
  "localStorage",
  new Proxy(storage, {
    ownKeys: () => [...kept.keys()],
    getOwnPropertyDescriptor: () => ({ enumerable: true, configurable: true }),
  }),
);
const outbox = await import("./outbox");

let number = 0;
const edit = (id: string, fields: Partial<Edit> = {}): Edit => ({
  id,
  act: `act of ${id}`,
  document: "solo",
  made_in: "solo",
  undoes: null,
  person: "me",
  at: `2026-11-28T10:00:${String(number++).padStart(2, "0")}Z`,
  schema: 5,
  label: "write",
  changes: [],
  follows: [],
  ...fields,
});
const ids = async (solo: string) => (await outbox.waiting(solo)).map((one) => one.id);

beforeEach(() => {
  full = false;
});

describe("the outbox", () => {
  it("has an edit before IndexedDB has it, so that a page which closes at once loses nothing", async () => {
    const going = outbox.keep("closing", edit("a"));
    expect([...kept.values()].map((text) => (JSON.parse(text) as Edit).id)).toEqual(["a"]);
    await going;
    expect(kept.size).toBe(0);
    expect(await ids("closing")).toEqual(["a"]);
    kept.set("usagi.waiting.closing 2026-11-28T11:00:00Z b", JSON.stringify(edit("b")));
    expect(await ids("closing")).toEqual(["a", "b"]);
    await outbox.drop("closing", new Set(["a", "b"]));
    expect([await ids("closing"), kept.size]).toEqual([[], 0]);
  });
  it("keeps in IndexedDB alone where the page's storage is full", async () => {
    full = true;
    await outbox.keep("full", edit("c"));
    expect(await ids("full")).toEqual(["c"]);
  });
  it("keeps the order in which edits were made, for each solo by itself, and puts a revised one in its place", async () => {
    for (const id of ["d", "e", "f"]) await outbox.keep("one", edit(id));
    await outbox.keep("other", edit("g"));
    await outbox.revise("one", [edit("e", { label: "otherwise" })]);
    expect((await outbox.waiting("one")).map((one) => [one.id, one.label])).toEqual([
      ["d", "write"],
      ["e", "otherwise"],
      ["f", "write"],
    ]);
    expect(await ids("other")).toEqual(["g"]);
  });
  it("takes in what an earlier program left: edits that name no consequences, and edits that were laid aside", async () => {
    const old: Partial<Edit> = edit("h", { schema: 1 });
    delete old.follows;
    await outbox.keep("old", old as Edit);
    expect((await outbox.waiting("old"))[0]?.follows).toEqual([]);
    const database = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open("usagi", 1);
      request.onsuccess = () => resolve(request.result);
    });
    const aside = database.transaction("aside", "readwrite");
    aside.objectStore("aside").add({ solo: "old", edit: old });
    await new Promise<void>((resolve) => {
      aside.oncomplete = () => resolve();
    });
    expect((await outbox.leftOut("old")).map((one) => [one.act, one.sentence])).toEqual([
      ["act of h", "An earlier version of the program kept it here."],
    ]);
    await outbox.dropLeftOut("old", new Set(["act of h"]));
    expect(await outbox.leftOut("old")).toEqual([]);
  });
  it("moves a refused act to what was left out, with its reason", async () => {
    const [one, two] = [edit("i"), edit("j")];
    await outbox.keep("refused", one);
    await outbox.keep("refused", two);
    await outbox.leaveOut("refused", [
      {
        act: one.act,
        edits: [one],
        code: "rule-broken",
        sentence: "no",
        place: "1:1",
        kind: null,
        id: null,
        now: null,
        restsOn: null,
      },
    ]);
    expect(await ids("refused")).toEqual(["j"]);
    expect((await outbox.leftOut("refused")).map((out) => [out.code, out.edits.map((edit) => edit.id)])).toEqual([
      ["rule-broken", ["i"]],
    ]);
  });
});
