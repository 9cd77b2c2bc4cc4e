/**
 * Edits that have not been answered yet, kept in IndexedDB from the first moment, with their ids: sending twice is
 * harmless, and a closed page loses nothing.
 */
import type { Edit } from "./types";

const NAME = "usagi";
const STORE = "outbox";
const ASIDE = "aside";

type Kept = { readonly key?: number; readonly solo: string; readonly edit: Edit };

let opened: Promise<IDBDatabase> | null = null;

const open = (): Promise<IDBDatabase> =>
  (opened ??= new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, 1);
    request.onupgradeneeded = () => {
      for (const name of [STORE, ASIDE]) {
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

const all = async (store: string, solo: string): Promise<Kept[]> => {
  const transaction = (await open()).transaction(store);
  const request = transaction.objectStore(store).index("solo").getAll(solo) as IDBRequest<Kept[]>;
  await done(transaction);
  return request.result;
};

export const keep = async (solo: string, edit: Edit): Promise<void> => {
  const transaction = (await open()).transaction(STORE, "readwrite");
  transaction.objectStore(STORE).add({ solo, edit } satisfies Kept);
  await done(transaction);
};

/** The waiting edits of a solo in the order in which they were made. */
export const waiting = async (solo: string): Promise<Edit[]> => (await all(STORE, solo)).map((kept) => kept.edit);

export const drop = async (solo: string, ids: ReadonlySet<string>): Promise<void> => {
  const kept = await all(STORE, solo);
  const transaction = (await open()).transaction(STORE, "readwrite");
  for (const { key, edit } of kept) if (key !== undefined && ids.has(edit.id)) transaction.objectStore(STORE).delete(key);
  await done(transaction);
};

/** Lay the waiting edits aside: they no longer go by themselves and are not lost. */
export const layAside = async (solo: string): Promise<number> => {
  const kept = await all(STORE, solo);
  const transaction = (await open()).transaction([STORE, ASIDE], "readwrite");
  for (const { key, edit } of kept) {
    transaction.objectStore(ASIDE).add({ solo, edit } satisfies Kept);
    if (key !== undefined) transaction.objectStore(STORE).delete(key);
  }
  await done(transaction);
  return kept.length;
};

/** Put another edit in the place of one that waits; without another it is laid aside. */
export const replace = async (solo: string, id: string, edit: Edit | null): Promise<void> => {
  const kept = (await all(STORE, solo)).find((one) => one.edit.id === id);
  if (kept?.key === undefined) return;
  const transaction = (await open()).transaction([STORE, ASIDE], "readwrite");
  transaction.objectStore(ASIDE).add({ solo, edit: kept.edit } satisfies Kept);
  if (edit === null) transaction.objectStore(STORE).delete(kept.key);
  else transaction.objectStore(STORE).put({ key: kept.key, solo, edit } satisfies Kept);
  await done(transaction);
};
