/** What the page draws in advance of an edit, held to what the core makes of it (tests/edit_cases.py writes the table). */
import { describe, expect, it } from "vitest";
import table from "./edit_cases.gen.json";
import { join, moveFret, moveInTime, removeNotes, setLength, writeNote, writeRest } from "./edits";
import { type Act, type Nothing, plainNote, type Elements } from "./elements";
import { cutPhrase } from "./phrases";
import type { Change, Note } from "./types";

type Element = { readonly id: string } & Readonly<Record<string, unknown>>;
type Tree = Partial<Record<Group, readonly Element[]>>;
type Group = "notes" | "rests" | "stacks" | "phrases" | "questions";
type Doing = Readonly<Record<string, unknown>> & { readonly do: string };
const GROUPS: readonly Group[] = ["notes", "rests", "stacks", "phrases", "questions"];
const KINDS: Record<string, Group> = {
  note: "notes",
  rest: "rests",
  stack: "stacks",
  phrase: "phrases",
  question: "questions",
};
const BARS = [0, 8 * 40_320] as const;

const full = (group: Group, element: Element): Element => {
  if (group === "notes") return { ...plainNote("", 0, 0, 1, 0), fret: null, ...element };
  if (group === "stacks") return { stroke: null, spread_ms: 0, ...element };
  if (group === "questions") return { notes: [], answers: [], answer: null, ...element };
  return group === "phrases" ? { name: "", ...element } : element;
};
const laid = (tree: Tree): Record<Group, Record<string, Element>> =>
  Object.fromEntries(
    GROUPS.map((group) => [
      group,
      Object.fromEntries((tree[group] ?? []).map((element) => [element.id, full(group, element)])),
    ]),
  ) as Record<Group, Record<string, Element>>;

const after = (
  elements: Record<Group, Record<string, Element>>,
  changes: readonly Change[],
): Record<Group, Record<string, Element>> => {
  const next = Object.fromEntries(GROUPS.map((group) => [group, { ...elements[group] }])) as Record<
    Group,
    Record<string, Element>
  >;
  for (const change of changes) {
    const group = next[KINDS[change.kind] as Group];
    expect(group[change.id] ?? null, `before of ${change.kind} ${change.id}`).toEqual(change.before);
    if (change.after == null) delete group[change.id];
    else group[change.id] = change.after as Element;
  }
  return next;
};

/** New elements are told apart by their place, as their ids are random. */
const named = (
  elements: Record<Group, Record<string, Element>>,
  old: Record<Group, Record<string, Element>>,
): Record<string, unknown> => {
  const names = new Map<string, string>();
  for (const group of GROUPS) {
    for (const element of Object.values(elements[group])) {
      const place =
        group === "stacks"
          ? Object.values(elements.notes)
              .filter((note) => note["stack"] === element.id)
              .map((note) => JSON.stringify([note["tick"], note["string"]]))
              .sort()
              .join()
          : JSON.stringify([element["tick"] ?? element["start"], element["string"]]);
      names.set(element.id, old[group][element.id] === undefined ? `new ${group} at ${place}` : element.id);
    }
  }
  const named = (id: unknown) => (typeof id === "string" ? (names.get(id) ?? id) : id);
  return Object.fromEntries(
    GROUPS.map((group) => [
      group,
      Object.fromEntries(
        Object.values(elements[group]).map((element) => [
          named(element.id),
          { ...element, id: named(element.id), ...("stack" in element ? { stack: named(element["stack"]) } : {}) },
        ]),
      ),
    ]),
  );
};

const done = (elements: Elements, act: Doing): Act | Nothing => {
  const note = elements.notes[act["note"] as string] as Note;
  const [tick, ticks] = [act["tick"] as number, act["ticks"] as number];
  switch (act.do) {
    case "write":
      return writeNote(
        elements,
        { tick, ticks, string: act["string"] as number, fret: act["fret"] as number },
        act["join"] as boolean,
      );
    case "rest":
      return writeRest(elements, tick, ticks);
    case "phrase":
      return cutPhrase(elements, act["start"] as number, act["end"] as number, "new");
    case "delete":
      return removeNotes(elements, act["notes"] as string[], (act["rests"] ?? []) as string[]);
    case "length":
      return setLength(elements, note, ticks);
    case "move":
      return moveInTime(elements, note, tick, BARS);
    case "fret":
      return moveFret(note, (act["fret"] as number) - (note.fret ?? 0) / 100, 22);
    case "join":
      return join(elements, note);
  }
  throw new Error(`the page has no act called ${act.do}`);
};

describe.each(Object.entries(table.scenes))("%s", (scene, tree) => {
  const cases = (table.cases as unknown as readonly { scene: string; act: Doing; after: Tree }[]).filter(
    (one) => one.scene === scene,
  );
  it.each(cases.map((one) => [JSON.stringify(one.act), one] as const))("%s", (_, one) => {
    const before = laid(tree);
    const made = done({ ...before, dynamics: {}, swells: {} } as unknown as Elements, one.act);
    const drawnAct = "nothing" in made ? { changes: [], follows: [] } : made;
    const did = after(before, drawnAct.changes);
    const drawn = named(after(did, drawnAct.follows ?? []), before) as Record<Group, Record<string, Element>>;
    const core = named(laid(one.after), before) as Record<Group, Record<string, Element>>;
    const written = named(did, before) as Record<Group, Record<string, Element>>;
    for (const group of GROUPS) {
      expect(Object.keys(drawn[group]).sort(), group).toEqual(Object.keys(core[group]).sort());
      for (const [id, element] of Object.entries(drawn[group])) {
        const [is, was] = [core[group][id] as Element, written[group][id]];
        expect(bare(element), `${group} ${id}`).toEqual(bare(is));
        // How a join, a trill or a slide adapts may come with the answer: it is as the core says, or still as it was.
        for (const field of ADAPTS)
          expect([is[field], was?.[field]], `${field} of ${id}`).toContainEqual(element[field]);
      }
    }
  });
});

const ADAPTS = ["attack", "trill", "ending"];
const bare = (element: Element): object =>
  Object.fromEntries(Object.entries(element).filter(([name]) => !ADAPTS.includes(name)));
