/** Loudness at a tick, and swells over a span. */
import type { Deed, Things } from "./edits";
import { newId } from "./edits";
import type { Change, Dynamic, Swell } from "./types";

/** A level from a tick on; the same level again takes it away. */
export const setLevel = (things: Things, tick: number, level: Dynamic["level"]): Deed => {
  const there = Object.values(things.dynamics).find((one) => one.tick === tick);
  const id = there?.id ?? newId();
  const after = there?.level === level ? null : { id, tick, level };
  return { label: after === null ? `no ${level}` : level, changes: [{ kind: "dynamic", id, before: there ?? null, after } as unknown as Change], picked: null };
};

/** A swell over a span; the same one again takes it away. */
export const swell = (things: Things, span: { readonly from: number; readonly to: number }, to: Swell["to"]): Deed => {
  const there = Object.values(things.swells).find((one) => one.start === span.from && one.end === span.to);
  const id = there?.id ?? newId();
  const after = there?.to === to ? null : { id, start: span.from, end: span.to, to };
  return { label: after === null ? "no swell" : `swell ${to}`, changes: [{ kind: "swell", id, before: there ?? null, after } as unknown as Change], picked: null };
};
