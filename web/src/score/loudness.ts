/** Loudness at a tick, and swells over a span; the note in hand stays in it. */
import { type Act, type Elements } from "./elements";
import { newId } from "./elements";
import type { Change, Dynamic, Swell } from "./types";

export const LEVELS = ["pp", "p", "mp", "mf", "f", "ff"] as const satisfies readonly Dynamic["level"][];

/** The level in force at a tick: of the last sign there or before it, mf before the first. */
export const levelAt = (elements: Elements, tick: number): Dynamic["level"] =>
  Object.values(elements.dynamics)
    .filter((one) => one.tick <= tick)
    .reduce<Dynamic | null>((last, one) => (last === null || one.tick > last.tick ? one : last), null)?.level ?? "mf";

/** A level from a tick on; the same level again takes it away. */
export const setLevel = (elements: Elements, tick: number, level: Dynamic["level"], picked: string | null): Act => {
  const there = Object.values(elements.dynamics).find((one) => one.tick === tick);
  const id = there?.id ?? newId();
  const after = there?.level === level ? null : { id, tick, level };
  return {
    label: after === null ? `no ${level}` : level,
    changes: [{ kind: "dynamic", id, before: there ?? null, after } as unknown as Change],
    picked,
  };
};

/** One level louder or softer from a tick on; back at the level before it no sign is left. Null at the end of the scale. */
export const stepLevel = (elements: Elements, tick: number, to: Swell["to"], picked: string | null): Act | null => {
  const level = LEVELS[LEVELS.indexOf(levelAt(elements, tick)) + (to === "louder" ? 1 : -1)];
  if (level === undefined) return null;
  const there = Object.values(elements.dynamics).find((one) => one.tick === tick);
  return there !== undefined && level === levelAt(elements, tick - 1)
    ? setLevel(elements, tick, there.level, picked)
    : setLevel(elements, tick, level, picked);
};

/** A swell over a span; the same one again takes it away. */
export const swell = (
  elements: Elements,
  span: { readonly from: number; readonly to: number },
  to: Swell["to"],
  picked: string | null,
): Act => {
  const there = Object.values(elements.swells).find((one) => one.start === span.from && one.end === span.to);
  const id = there?.id ?? newId();
  const after = there?.to === to ? null : { id, start: span.from, end: span.to, to };
  return {
    label: after === null ? "no swell" : `swell ${to}`,
    changes: [{ kind: "swell", id, before: there ?? null, after } as unknown as Change],
    picked,
  };
};
