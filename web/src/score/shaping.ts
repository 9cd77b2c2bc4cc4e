/** What the first keys do to the shape of a note: bend, release, vibrato, slide, dead, unsure. Every other technique: techniques.ts. */
import { type Act, type Elements, type Nothing, inOrder, reshape } from "./elements";
import type { Note, Tables } from "./types";

const points = (note: Note) => note.course;

/** Bend, and again: wider, through the sizes of the table and back to none. */
export const bend = (note: Note, tables: Tables): Act => {
  const sizes = tables.bend_sizes.map((size) => size.quarters);
  const now = Math.max(0, ...points(note).map(([, quarters]) => quarters));
  const next = sizes[sizes.indexOf(now) + 1] ?? 0;
  return bendTo(note, now !== 0 && !sizes.includes(now) ? (sizes[0] ?? 0) : next, tables);
};

export const bendTo = (note: Note, quarters: number, tables: Tables): Act => {
  if (quarters === 0) return reshape(note, "no bend", { course: [] });
  const released = isReleased(note);
  const reach = Math.max(1, Math.min(tables.bend_reached, Math.floor(note.ticks / 2)));
  const course: [number, number][] = [
    [0, 0],
    [reach, quarters],
  ];
  if (released) course.push(...releasePoints(note, reach, quarters));
  return reshape(note, "bend", { course });
};

const isReleased = (note: Note): boolean => {
  const course = points(note);
  return course.length > 2 && course[course.length - 1]?.[1] === 0;
};

/** A release takes the last third. */
const releasePoints = (note: Note, reach: number, quarters: number): [number, number][] => {
  const leaves = Math.max(reach + 1, note.ticks - Math.floor(note.ticks / 3));
  return leaves >= note.ticks
    ? []
    : [
        [leaves, quarters],
        [note.ticks, 0],
      ];
};

/** Let a bend down, or hold it again. */
export const release = (note: Note): Act | Nothing => {
  const course = points(note);
  const top = course[1];
  if (top === undefined || top[1] <= 0) return { nothing: "There is no bend to release: bend the note first." };
  if (isReleased(note)) return reshape(note, "hold", { course: course.slice(0, 2) });
  return reshape(note, "release", { course: [...course.slice(0, 2), ...releasePoints(note, top[0], top[1])] });
};

/** Shake: from the middle of a bend's hold or a third into the note; again: wide; again: not. */
export const vibrato = (note: Note): Act => {
  const reached = points(note)[1]?.[0] ?? Math.floor(note.ticks / 3);
  if (note.vibrato === null || note.vibrato === undefined) {
    return reshape(note, "vibrato", {
      vibrato: { start: Math.min(reached, note.ticks), width_cents: 40, rate_hz: 5.5, by: "finger" },
    });
  }
  if (note.vibrato.width_cents < 60)
    return reshape(note, "wide vibrato", { vibrato: { ...note.vibrato, width_cents: 80 } });
  return reshape(note, "no vibrato", { vibrato: null });
};

/** Slide into a note from the one before it on its string; again: picked. */
export const slideInto = (elements: Elements, note: Note): Act | Nothing => {
  if (note.attack.kind === "slide") return reshape(note, "pick", { attack: { kind: "picked" } });
  const before = inOrder(elements.notes)
    .filter((one) => one.string === note.string && one.tick < note.tick)
    .pop();
  if (before === undefined) return { nothing: "There is no note before this one on its string to slide from." };
  if (before.fret != null && before.fret === note.fret)
    return { nothing: "The note before it is on the same fret: there is nothing to slide." };
  return reshape(note, "slide", { attack: { kind: "slide" } });
};

export const toggleDead = (note: Note): Act => reshape(note, "dead", { dead: !note.dead });

export const toggleSure = (note: Note): Act =>
  reshape(note, note.sure === "sure" ? "unsure" : "sure", { sure: note.sure === "sure" ? "unsure" : "sure" });
