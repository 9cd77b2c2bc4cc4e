/** What the shelf shows: narrowed by words, in an order, and what is open over all of it. */
import type { Schemas } from "@/api/client";

export type Solo = Schemas["ShelfSolo"];
export type Order = "player" | "tune" | "last worked on" | "open questions";
export const ORDERS: readonly Order[] = ["player", "tune", "last worked on", "open questions"];

const UNKNOWN = "Player not known";
export type Group = { readonly heading: string; readonly solos: readonly Solo[] };

const plain = (text: string): string => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();

/** Whether every word is somewhere in the names of a solo. */
export const named = (solo: Solo, words: string): boolean => {
  const names = plain([solo.tune, solo.title, solo.player ?? UNKNOWN].join(" "));
  return plain(words)
    .split(/\s+/)
    .every((word) => names.includes(word));
};

const findings = (solo: Solo): number => solo.check?.open ?? 0;
const BY: Readonly<Record<Exclude<Order, "player">, (a: Solo, b: Solo) => number>> = {
  tune: (a, b) => a.tune.localeCompare(b.tune) || a.title.localeCompare(b.title),
  "last worked on": (a, b) => b.touched_at.localeCompare(a.touched_at),
  "open questions": (a, b) => b.questions - a.questions || findings(b) - findings(a) || a.tune.localeCompare(b.tune),
};

/** Players with their solos, as the server orders them; or one list in another order. */
export const inOrder = (solos: readonly Solo[], order: Order): readonly Group[] => {
  if (order !== "player") return [{ heading: "", solos: [...solos].sort(BY[order]) }];
  const players = [...new Set(solos.map((solo) => solo.player ?? UNKNOWN))];
  return players.map((heading) => ({ heading, solos: solos.filter((solo) => (solo.player ?? UNKNOWN) === heading) }));
};

const counted = (count: number, one: string): string => `${count} ${one}${count === 1 ? "" : "s"}`;

/** What is open over all solos, in a sentence; empty when nothing is. */
export const openOver = (solos: readonly Solo[]): string => {
  const asked = solos.filter(({ questions }) => questions > 0);
  const found = solos.filter((solo) => findings(solo) > 0);
  const sum = (some: readonly Solo[], of: (solo: Solo) => number) => some.reduce((all, solo) => all + of(solo), 0);
  return [
    asked.length > 0 &&
      `${counted(
        sum(asked, ({ questions }) => questions),
        "open question",
      )} in ${counted(asked.length, "solo")}`,
    found.length > 0 && `${counted(sum(found, findings), "finding")} in ${counted(found.length, "solo")}`,
  ]
    .filter(Boolean)
    .join(", ");
};
