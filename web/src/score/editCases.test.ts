/** What the page draws in advance of an edit, held to what the core makes of it (tests/edit_cases.py writes the table). */
import { describe, expect, it } from "vitest";
import table from "./edit_cases.gen.json";
import { cutPhrase, type Deed, join, moveFret, moveInTime, type Nothing, plainNote, removeNotes, setLength, type Things, writeNote, writeRest } from "./edits";
import type { Change, Note } from "./types";

type Thing = { readonly id: string } & Readonly<Record<string, unknown>>;
type Tree = Partial<Record<Group, readonly Thing[]>>;
type Group = "notes" | "rests" | "stacks" | "phrases" | "questions";
type Act = Readonly<Record<string, unknown>> & { readonly do: string };
const GROUPS: readonly Group[] = ["notes", "rests", "stacks", "phrases", "questions"];
const KINDS: Record<string, Group> = { note: "notes", rest: "rests", stack: "stacks", phrase: "phrases", question: "questions" };
const BARS = [0, 8 * 40_320] as const;

const full = (group: Group, thing: Thing): Thing => {
  if (group === "notes") return { ...plainNote("", 0, 0, 1, 0), fret: null, ...thing };
  if (group === "stacks") return { stroke: null, spread_ms: 0, ...thing };
  if (group === "questions") return { notes: [], answers: [], answer: null, ...thing };
  return group === "phrases" ? { name: "", ...thing } : thing;
};
const laid = (tree: Tree): Record<Group, Record<string, Thing>> =>
  Object.fromEntries(GROUPS.map((group) => [group, Object.fromEntries((tree[group] ?? []).map((thing) => [thing.id, full(group, thing)]))])) as Record<Group, Record<string, Thing>>;

const after = (things: Record<Group, Record<string, Thing>>, changes: readonly Change[]): Record<Group, Record<string, Thing>> => {
  const next = Object.fromEntries(GROUPS.map((group) => [group, { ...things[group] }])) as Record<Group, Record<string, Thing>>;
  for (const change of changes) {
    const group = next[KINDS[change.kind] as Group];
    expect(group[change.id] ?? null, `before of ${change.kind} ${change.id}`).toEqual(change.before);
    if (change.after == null) delete group[change.id];
    else group[change.id] = change.after as Thing;
  }
  return next;
};

/** New things are told apart by their place, as their ids are random. */
const named = (things: Record<Group, Record<string, Thing>>, old: Record<Group, Record<string, Thing>>): Record<string, unknown> => {
  const names = new Map<string, string>();
  for (const group of GROUPS) {
    for (const thing of Object.values(things[group])) {
      const place = group === "stacks" ? Object.values(things.notes).filter((note) => note["stack"] === thing.id).map((note) => JSON.stringify([note["tick"], note["string"]])).sort().join() : JSON.stringify([thing["tick"] ?? thing["start"], thing["string"]]);
      names.set(thing.id, old[group][thing.id] === undefined ? `new ${group} at ${place}` : thing.id);
    }
  }
  const said = (id: unknown) => (typeof id === "string" ? (names.get(id) ?? id) : id);
  return Object.fromEntries(GROUPS.map((group) => [group, Object.fromEntries(Object.values(things[group]).map((thing) => [said(thing.id), { ...thing, id: said(thing.id), ...("stack" in thing ? { stack: said(thing["stack"]) } : {}) }]))]));
};

const done = (things: Things, act: Act): Deed | Nothing => {
  const note = things.notes[act["note"] as string] as Note;
  const [tick, ticks] = [act["tick"] as number, act["ticks"] as number];
  switch (act.do) {
    case "write": return writeNote(things, { tick, ticks, string: act["string"] as number, fret: act["fret"] as number }, act["join"] as boolean);
    case "rest": return writeRest(things, tick, ticks);
    case "phrase": return cutPhrase(things, act["start"] as number, act["end"] as number, "new");
    case "delete": return removeNotes(things, act["notes"] as string[], (act["rests"] ?? []) as string[]);
    case "length": return setLength(things, note, ticks);
    case "move": return moveInTime(things, note, tick, BARS);
    case "fret": return moveFret(note, (act["fret"] as number) - (note.fret ?? 0) / 100, 22);
    case "join": return join(things, note);
  }
  throw new Error(`the page has no act called ${act.do}`);
};

describe.each(Object.entries(table.scenes))("%s", (scene, tree) => {
  const cases = (table.cases as unknown as readonly { scene: string; act: Act; after: Tree }[]).filter((one) => one.scene === scene);
  it.each(cases.map((one) => [JSON.stringify(one.act), one] as const))("%s", (_, one) => {
    const before = laid(tree);
    const made = done({ ...before, dynamics: {}, swells: {} } as unknown as Things, one.act);
    const deed = "nothing" in made ? { changes: [], follows: [] } : made;
    const did = after(before, deed.changes);
    const drawn = named(after(did, deed.follows ?? []), before) as Record<Group, Record<string, Thing>>;
    const core = named(laid(one.after), before) as Record<Group, Record<string, Thing>>;
    const written = named(did, before) as Record<Group, Record<string, Thing>>;
    for (const group of GROUPS) {
      expect(Object.keys(drawn[group]).sort(), group).toEqual(Object.keys(core[group]).sort());
      for (const [id, thing] of Object.entries(drawn[group])) {
        const [is, was] = [core[group][id] as Thing, written[group][id]];
        expect(bare(thing), `${group} ${id}`).toEqual(bare(is));
        // How a join, a trill or a slide adapts may come with the answer: it is as the core says, or still as it was.
        for (const field of ADAPTS) expect([is[field], was?.[field]], `${field} of ${id}`).toContainEqual(thing[field]);
      }
    }
  });
});

const ADAPTS = ["attack", "trill", "ending"];
const bare = (thing: Thing): object => Object.fromEntries(Object.entries(thing).filter(([name]) => !ADAPTS.includes(name)));
