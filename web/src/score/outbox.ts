/**
 * Edits that have not been answered yet, kept from the first moment with their ids: sending twice is harmless, and a
 * closed page loses nothing. They lie in IndexedDB; until that has taken one, it stands in the page's storage too,
 * which is written before the key comes up. Beside them lie the acts that were left out, with their reasons.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { Edit } from "./types";

const NAME = "usagi";
const WAITING = "outbox" as const;
const ASIDE = "aside" as const;
const JOURNAL = "usagi.waiting.";

/** An act that the server left out, and why; `other` is what stands in its way. */
export type LeftOut = {
  readonly act: string;
  readonly edits: readonly Edit[];
  readonly code: string;
  readonly sentence: string;
  readonly place: string | null;
  readonly kind: string | null;
  readonly id: string | null; // the element that is in question
  readonly now: unknown; // what stands there
  readonly restsOn: string | null;
};
type Kept = { readonly key?: number; readonly solo: string; readonly edit: Edit };
type Aside = { readonly key?: number; readonly solo: string; readonly edit?: Edit; readonly out?: LeftOut };

interface Stores extends DBSchema {
  [WAITING]: { key: number; value: Kept; indexes: { solo: string } };
  [ASIDE]: { key: number; value: Aside; indexes: { solo: string } };
}
let opened: Promise<IDBPDatabase<Stores>> | null = null;

const open = (): Promise<IDBPDatabase<Stores>> =>
  (opened ??= openDB<Stores>(NAME, 1, {
    upgrade: (database) => {
      for (const name of [WAITING, ASIDE] as const)
        database.createObjectStore(name, { keyPath: "key", autoIncrement: true }).createIndex("solo", "solo");
    },
  }));

/** An edit of an earlier program names no consequences: the server works them out. */
const ofToday = (edit: Partial<Edit> & Omit<Edit, "follows">): Edit => ({ ...edit, follows: edit.follows ?? [] });

// -- the journal: what IndexedDB has not taken yet --------------------------------------------------------------

const journalKey = (solo: string, edit: Edit): string => `${JOURNAL}${solo} ${edit.at} ${edit.id}`;
const journal = (solo: string, edit: Edit): void => {
  try {
    localStorage.setItem(journalKey(solo, edit), JSON.stringify(edit));
  } catch {
    // No room: IndexedDB alone keeps it.
  }
};
const journalled = (solo: string): Edit[] =>
  Object.keys(localStorage)
    .filter((key) => key.startsWith(`${JOURNAL}${solo} `))
    .sort()
    .flatMap((key) => {
      const text = localStorage.getItem(key);
      return text === null ? [] : [JSON.parse(text) as Edit];
    });
const strike = (solo: string, ids: ReadonlySet<string>): void => {
  for (const key of Object.keys(localStorage))
    if (key.startsWith(`${JOURNAL}${solo} `) && ids.has(key.slice(key.lastIndexOf(" ") + 1)))
      localStorage.removeItem(key);
};

export const keep = async (solo: string, edit: Edit): Promise<void> => {
  journal(solo, edit);
  await (await open()).add(WAITING, { solo, edit });
  strike(solo, new Set([edit.id]));
};

/** The waiting edits of a solo in the order in which they were made. */
export const waiting = async (solo: string): Promise<Edit[]> => {
  const kept = (await (await open()).getAllFromIndex(WAITING, "solo", solo)).map(({ edit }) => edit);
  const known = new Set(kept.map((edit) => edit.id));
  return [...kept, ...journalled(solo).filter((edit) => !known.has(edit.id))].map(ofToday);
};

/** Put edits in the place of those with their ids. */
export const revise = async (solo: string, edits: readonly Edit[]): Promise<void> => {
  const transaction = (await open()).transaction(WAITING, "readwrite");
  for (const kept of await transaction.store.index("solo").getAll(solo)) {
    const revised = edits.find((one) => one.id === kept.edit.id);
    if (revised !== undefined) await transaction.store.put({ ...kept, edit: revised });
  }
  await transaction.done;
};

export const drop = async (solo: string, ids: ReadonlySet<string>): Promise<void> => {
  if (ids.size === 0) return;
  const transaction = (await open()).transaction(WAITING, "readwrite");
  for await (const kept of transaction.store.index("solo").iterate(solo))
    if (ids.has(kept.value.edit.id)) await kept.delete();
  await transaction.done;
  strike(solo, ids);
};

/** Move acts from what waits to what was left out, in one step. */
export const leaveOut = async (solo: string, acts: readonly LeftOut[]): Promise<void> => {
  const ids = new Set(acts.flatMap((act) => act.edits.map((edit) => edit.id)));
  const transaction = (await open()).transaction([WAITING, ASIDE], "readwrite");
  for (const out of acts) await transaction.objectStore(ASIDE).add({ solo, out });
  for await (const kept of transaction.objectStore(WAITING).index("solo").iterate(solo))
    if (ids.has(kept.value.edit.id)) await kept.delete();
  await transaction.done;
  strike(solo, ids);
};

/** What was left out of a solo and not tried again or dropped since; edits that an earlier program laid aside among them. */
export const leftOut = async (solo: string): Promise<LeftOut[]> =>
  (await (await open()).getAllFromIndex(ASIDE, "solo", solo)).flatMap(({ edit, out }) => {
    if (out !== undefined) return [out];
    if (edit === undefined) return [];
    return [
      {
        act: edit.act,
        edits: [ofToday(edit)],
        code: "laid-aside",
        sentence: "An earlier version of the program kept it here.",
        place: null,
        kind: null,
        id: null,
        now: null,
        restsOn: null,
      },
    ];
  });

export const dropLeftOut = async (solo: string, acts: ReadonlySet<string>): Promise<void> => {
  const transaction = (await open()).transaction(ASIDE, "readwrite");
  for await (const kept of transaction.store.index("solo").iterate(solo))
    if (acts.has(kept.value.out?.act ?? kept.value.edit?.act ?? "")) await kept.delete();
  await transaction.done;
};
