/**
 * Edits that have not been answered yet, kept from the first moment with their ids: sending twice is harmless, and a
 * closed page loses nothing. They lie in IndexedDB; until that has taken one, it stands in the page's storage too,
 * which is written before the key comes up. Beside them lie the acts that were left out, with their reasons.
 */
import type { Edit } from "./types";

const NAME = "usagi";
const WAITING = "outbox";
const ASIDE = "aside";
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

let opened: Promise<IDBDatabase> | null = null;

const open = (): Promise<IDBDatabase> =>
  (opened ??= new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, 1);
    request.onupgradeneeded = () => {
      for (const name of [WAITING, ASIDE]) {
        request.result.createObjectStore(name, { keyPath: "key", autoIncrement: true }).createIndex("solo", "solo");
      }
    };
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error ?? new Error("IndexedDB"));
  }));

const done = (transaction: IDBTransaction): Promise<void> =>
  new Promise((resolve, reject) => {
    transaction.oncomplete = () => resolve();
    transaction.onerror = transaction.onabort = () => reject(transaction.error ?? new Error("IndexedDB"));
  });

const all = async <T>(store: string, solo: string): Promise<T[]> => {
  const transaction = (await open()).transaction(store);
  const request = transaction.objectStore(store).index("solo").getAll(solo) as IDBRequest<T[]>;
  await done(transaction);
  return request.result;
};

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
  const transaction = (await open()).transaction(WAITING, "readwrite");
  transaction.objectStore(WAITING).add({ solo, edit } satisfies Kept);
  await done(transaction);
  strike(solo, new Set([edit.id]));
};

/** The waiting edits of a solo in the order in which they were made. */
export const waiting = async (solo: string): Promise<Edit[]> => {
  const kept = (await all<Kept>(WAITING, solo)).map(({ edit }) => edit);
  const known = new Set(kept.map((edit) => edit.id));
  return [...kept, ...journalled(solo).filter((edit) => !known.has(edit.id))].map(ofToday);
};

/** Put edits in the place of those with their ids. */
export const revise = async (solo: string, edits: readonly Edit[]): Promise<void> => {
  const kept = await all<Kept>(WAITING, solo);
  const transaction = (await open()).transaction(WAITING, "readwrite");
  for (const { key, edit } of kept) {
    const revised = edits.find((one) => one.id === edit.id);
    if (key !== undefined && revised !== undefined)
      transaction.objectStore(WAITING).put({ key, solo, edit: revised } satisfies Kept);
  }
  await done(transaction);
};

export const drop = async (solo: string, ids: ReadonlySet<string>): Promise<void> => {
  if (ids.size === 0) return;
  const kept = await all<Kept>(WAITING, solo);
  const transaction = (await open()).transaction(WAITING, "readwrite");
  for (const { key, edit } of kept)
    if (key !== undefined && ids.has(edit.id)) transaction.objectStore(WAITING).delete(key);
  await done(transaction);
  strike(solo, ids);
};

/** Move acts from what waits to what was left out, in one step. */
export const leaveOut = async (solo: string, acts: readonly LeftOut[]): Promise<void> => {
  const ids = new Set(acts.flatMap((act) => act.edits.map((edit) => edit.id)));
  const kept = await all<Kept>(WAITING, solo);
  const transaction = (await open()).transaction([WAITING, ASIDE], "readwrite");
  for (const out of acts) transaction.objectStore(ASIDE).add({ solo, out } satisfies Aside);
  for (const { key, edit } of kept)
    if (key !== undefined && ids.has(edit.id)) transaction.objectStore(WAITING).delete(key);
  await done(transaction);
  strike(solo, ids);
};

/** What was left out of a solo and not tried again or dropped since; edits that an earlier program laid aside among them. */
export const leftOut = async (solo: string): Promise<LeftOut[]> =>
  (await all<Aside>(ASIDE, solo)).flatMap(({ edit, out }) => {
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
  const kept = await all<Aside>(ASIDE, solo);
  const transaction = (await open()).transaction(ASIDE, "readwrite");
  for (const { key, edit, out } of kept)
    if (key !== undefined && acts.has(out?.act ?? edit?.act ?? "")) transaction.objectStore(ASIDE).delete(key);
  await done(transaction);
};
