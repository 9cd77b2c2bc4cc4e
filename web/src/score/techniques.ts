/**
 * Every technique as something that a key or the menu does to a note; pressed again, it goes on to its next size and back to none.
 * Only ticks, quarter tones and frets are laid here; what the note then is, the server says.
 */
import { type Act } from "./elements";
import { reshape } from "./elements";
import type { Change, Note, Stack, Tables } from "./types";

type Shaped = Partial<Note>;
export type Group = "how it begins" | "where its pitch goes" | "how it ends" | "how it sounds" | "the hands";
export type Technique = {
  readonly name: string;
  readonly group: Group;
  readonly on: (note: Note, tables: Tables) => boolean;
  /** What it makes of the note; null when it means nothing here. */
  readonly next: (note: Note, tables: Tables) => Shaped | null;
};

const part = (note: Note, share: number): number =>
  Math.max(1, Math.min(note.ticks - 1, Math.round(note.ticks * share)));
const topOf = (note: Note): number => Math.max(0, ...note.course.map(([, quarters]) => quarters));
/** Points in rising order, none past the end. */
const course = (note: Note, ...points: readonly (readonly [number, number])[]): Shaped => {
  const laid: [number, number][] = [];
  for (const [at, quarters] of points)
    if (at <= note.ticks && (laid.length === 0 || at > (laid[laid.length - 1]?.[0] ?? 0))) laid.push([at, quarters]);
  return { course: laid };
};
const reached = (note: Note, tables: Tables): number =>
  Math.max(1, Math.min(tables.bend_reached, Math.floor(note.ticks / 2)));
const same = (note: Note, wanted: Shaped): boolean =>
  "course" in wanted && JSON.stringify(note.course) === JSON.stringify(wanted.course);

/** A shape of the pitch: laid, or taken away when it lies there already. */
const shape = (name: string, laid: (note: Note, tables: Tables) => Shaped): Technique => ({
  name,
  group: "where its pitch goes",
  on: (note, tables) => note.course.length > 0 && same(note, laid(note, tables)),
  next: (note, tables) => {
    const wanted = laid(note, tables);
    return same(note, wanted) ? { course: [] } : wanted;
  },
});

const attack = (name: string, wanted: readonly Note["attack"][]): Technique => ({
  name,
  group: "how it begins",
  on: (note) => wanted.some((one) => JSON.stringify(one) === JSON.stringify(note.attack)),
  next: (note) => {
    const at = wanted.findIndex((one) => JSON.stringify(one) === JSON.stringify(note.attack));
    return { attack: wanted[at + 1] ?? { kind: "picked" } };
  },
});

type Flag = "dead" | "ghost" | "accent" | "palm_mute";
const flag = (name: string, field: Flag): Technique => ({
  name,
  group: "how it sounds",
  on: (note) => note[field],
  next: (note) => ({ [field]: !note[field] }),
});

const ending = (name: string, wanted: readonly NonNullable<Note["ending"]>[]): Technique => ({
  name,
  group: "how it ends",
  on: (note) => note.ending != null && wanted.some((one) => one.kind === note.ending?.kind),
  next: (note) => {
    const at = wanted.findIndex((one) => JSON.stringify(one) === JSON.stringify(note.ending));
    return { ending: wanted[at + 1] ?? null };
  },
});

const harmonic = (how: "natural" | "pinched" | "tapped", partials: readonly number[]): Technique =>
  attack(
    `${how} harmonic`,
    partials.map((partial) => ({ kind: "harmonic", how, partial })),
  );

const inward = (note: Note, start: "far below" | "far above"): Note["attack"] => ({
  kind: "slide-in",
  start,
  ticks: part(note, 0.25),
});
const slideIn = (name: string, start: "far below" | "far above"): Technique => ({
  name,
  group: "how it begins",
  on: (note) => note.attack.kind === "slide-in" && note.attack.start === start,
  next: (note) => ({
    attack: note.attack.kind === "slide-in" && note.attack.start === start ? { kind: "picked" } : inward(note, start),
  }),
});
const slideOff = (name: string, to: "far down" | "far up"): Technique => ({
  name,
  group: "how it ends",
  on: (note) => note.ending?.kind === "slide-off" && note.ending.to === to,
  next: (note) => ({
    ending:
      note.ending?.kind === "slide-off" && note.ending.to === to
        ? null
        : { kind: "slide-off", to, ticks: part(note, 0.34) },
  }),
});
const finger = (value: NonNullable<Note["finger"]>, name: string): Technique => ({
  name,
  group: "the hands",
  on: (note) => note.finger === value,
  next: (note) => ({ finger: note.finger === value ? null : value }),
});
const picks = (value: NonNullable<Note["pick"]>, name: string): Technique => ({
  name,
  group: "the hands",
  on: (note) => note.pick === value,
  next: (note) => ({ pick: note.pick === value ? null : value }),
});

const TRILLS = [100, 200, 300, 400]; // hundredths of frets above
const RATES = [8, 12, 16]; // strokes a second
const DIPS = [2, 4, 8]; // quarter tones

export const TECHNIQUES: readonly Technique[] = [
  attack("picked", [{ kind: "picked" }]),
  attack("hammer-on", [{ kind: "hammer-on" }]),
  attack("pull-off", [{ kind: "pull-off" }]),
  attack("slide from the note before", [{ kind: "slide" }]),
  slideIn("slide in from below", "far below"),
  slideIn("slide in from above", "far above"),
  attack("tapped", [{ kind: "tapped" }]),
  harmonic("natural", [2]),
  harmonic("pinched", [2, 3, 4]),
  harmonic("tapped", [2, 3, 4]),
  shape("bend", (note, tables) => course(note, [0, 0], [reached(note, tables), topOf(note) || 4])),
  shape("bend and release", (note, tables) => {
    const up = Math.min(reached(note, tables), part(note, 0.34));
    return course(
      note,
      [0, 0],
      [up, topOf(note) || 4],
      [Math.max(up + 1, note.ticks - Math.floor(note.ticks / 3)), topOf(note) || 4],
      [note.ticks, 0],
    );
  }),
  shape("release half-way", (note) => {
    const top = topOf(note) || 4;
    return course(
      note,
      [0, 0],
      [part(note, 0.25), top],
      [part(note, 0.6), top],
      [part(note, 0.8), Math.max(1, Math.floor(top / 2))],
    );
  }),
  shape("release and bend again", (note) => {
    const top = topOf(note) || 4;
    return course(
      note,
      [0, 0],
      [part(note, 0.2), top],
      [part(note, 0.4), top],
      [part(note, 0.6), 0],
      [part(note, 0.8), top],
    );
  }),
  shape("full, then wider", (note) =>
    course(note, [0, 0], [part(note, 0.25), 4], [part(note, 0.5), 4], [part(note, 0.75), 6]),
  ),
  shape("prebend", (note) => course(note, [0, topOf(note) || 4])),
  shape("prebend and release", (note) => {
    const top = topOf(note) || 4;
    return course(note, [0, top], [part(note, 0.4), top], [part(note, 0.75), 0]);
  }),
  shape("curl", (note) => course(note, [0, 0], [part(note, 0.6), 1])),
  {
    name: "choked bend",
    group: "where its pitch goes",
    on: (note) => note.ending?.kind === "choked" && topOf(note) > 0,
    next: (note, tables) =>
      note.ending?.kind === "choked" && topOf(note) > 0
        ? { ending: null }
        : { ...course(note, [0, 0], [reached(note, tables), topOf(note) || 4]), ending: { kind: "choked" } },
  },
  {
    name: "bar dip",
    group: "where its pitch goes",
    on: (note) => note.course.some(([, quarters]) => quarters < 0),
    next: (note) => {
      const now = -Math.min(0, ...note.course.map(([, quarters]) => quarters));
      const deep = DIPS[DIPS.indexOf(now) + 1];
      return deep === undefined ? { course: [] } : course(note, [0, 0], [part(note, 0.3), -deep], [part(note, 0.6), 0]);
    },
  },
  {
    name: "vibrato",
    group: "where its pitch goes",
    on: (note) => note.vibrato?.by === "finger",
    next: (note) => ({
      vibrato:
        note.vibrato?.by === "finger" ? null : { start: part(note, 0.3), width_cents: 40, rate_hz: 5.5, by: "finger" },
    }),
  },
  {
    name: "vibrato with the bar",
    group: "where its pitch goes",
    on: (note) => note.vibrato?.by === "bar",
    next: (note) => ({
      vibrato: note.vibrato?.by === "bar" ? null : { start: part(note, 0.3), width_cents: 60, rate_hz: 5.5, by: "bar" },
    }),
  },
  {
    name: "trill",
    group: "where its pitch goes",
    on: (note) => note.trill != null,
    next: (note, tables) => {
      if (note.fret == null) return null;
      const now = note.trill == null ? 0 : note.trill.fret - note.fret;
      const by = TRILLS[TRILLS.indexOf(now) + 1];
      return {
        trill: by === undefined || note.fret + by > tables.frets * 100 ? null : { fret: note.fret + by, rate_hz: 9 },
      };
    },
  },
  slideOff("slide off downwards", "far down"),
  slideOff("slide off upwards", "far up"),
  ending("short", [{ kind: "staccato" }]),
  ending("choked", [{ kind: "choked" }]),
  ending("let ring", [{ kind: "let ring" }]),
  flag("dead", "dead"),
  flag("ghost", "ghost"),
  flag("accent", "accent"),
  flag("palm mute", "palm_mute"),
  {
    name: "tremolo",
    group: "how it sounds",
    on: (note) => note.tremolo != null,
    next: (note) => {
      const rate = RATES[note.tremolo == null ? 0 : RATES.indexOf(note.tremolo.rate_hz) + 1];
      return { tremolo: rate === undefined ? null : { rate_hz: rate } };
    },
  },
  {
    name: "rake",
    group: "how it sounds",
    on: (note) => note.rake != null,
    next: (note, tables) => {
      const all = tables.strings.length;
      const below = Array.from(
        { length: Math.min(3, all - note.string) },
        (_, i) => note.string + Math.min(3, all - note.string) - i,
      );
      const above = Array.from(
        { length: Math.min(3, note.string - 1) },
        (_, i) => note.string - Math.min(3, note.string - 1) + i,
      );
      const sets = [below, above].filter((one) => one.length > 0);
      const at = sets.findIndex((one) => JSON.stringify(one) === JSON.stringify(note.rake?.strings));
      const strings = sets[at + 1];
      return { rake: strings === undefined ? null : { strings } };
    },
  },
  finger("1", "index finger"),
  finger("2", "middle finger"),
  finger("3", "ring finger"),
  finger("4", "little finger"),
  finger("T", "thumb"),
  picks("down", "pick down"),
  picks("up", "pick up"),
  picks("sweep", "sweep"),
  picks("finger", "plucked by a finger"),
];

export const techniqueOf = (name: string): Technique => {
  const found = TECHNIQUES.find((one) => one.name === name);
  if (found === undefined) throw new Error(`no technique is called ${name}`);
  return found;
};

/** Do one technique to a note. */
export const shapeBy = (name: string, note: Note, tables: Tables): Act | null => {
  const values = techniqueOf(name).next(note, tables);
  return values === null ? null : reshape(note, name, values);
};

/** Go through several techniques by one key: from none to the first, on to the next, and back to none. */
export const walk = (names: readonly string[], note: Note, tables: Tables): Act | null => {
  const at = names.findIndex((name) => techniqueOf(name).on(note, tables));
  const off = at < 0 ? {} : onlyOff(techniqueOf(names[at] ?? ""), note, tables);
  const next = names[at + 1];
  if (next === undefined) return at < 0 ? null : reshape(note, `no ${names[at]}`, off);
  const values = techniqueOf(next).next({ ...note, ...off }, tables);
  return values === null ? null : reshape(note, next, { ...off, ...values });
};

const onlyOff = (technique: Technique, note: Note, tables: Tables): Shaped => {
  let now = note;
  let all: Shaped = {};
  for (let tries = 0; technique.on(now, tables) && tries < 6; tries += 1) {
    const values = technique.next(now, tables);
    if (values === null) break;
    all = { ...all, ...values };
    now = { ...now, ...values };
  }
  return all;
};

const STROKES: readonly Stack["stroke"][] = ["down", "up", "together", null];
/** The stroke of a stack, and again: the next. */
export const stroke = (stack: Stack, picked: string): Act => {
  const next = STROKES[(STROKES.indexOf(stack.stroke ?? null) + 1) % STROKES.length] ?? null;
  return {
    label: next === null ? "no stroke" : `stroke ${next}`,
    changes: [{ kind: "stack", id: stack.id, before: stack, after: { ...stack, stroke: next } } as unknown as Change],
    picked,
  };
};

const SPREADS = [0, 30, 60, 120];
/** How far the strings of a stack come apart, and again: further. */
export const spread = (stack: Stack, picked: string): Act => {
  const next = SPREADS[(SPREADS.indexOf(stack.spread_ms) + 1) % SPREADS.length] ?? 0;
  return {
    label: `spread over ${next} ms`,
    changes: [
      { kind: "stack", id: stack.id, before: stack, after: { ...stack, spread_ms: next } } as unknown as Change,
    ],
    picked,
  };
};

/** A cut: all that sounds in a stack ends choked on one tick, that of the shortest. */
export const cut = (notes: readonly Note[], picked: string): Act => {
  const ticks = Math.min(...notes.map((note) => note.ticks));
  const off = notes.every((note) => note.ending?.kind === "choked" && note.ticks === ticks);
  return {
    label: off ? "no cut" : "cut",
    changes: notes.map(
      (note) =>
        ({
          kind: "note",
          id: note.id,
          before: note,
          after: {
            ...note,
            ticks: off ? note.ticks : ticks,
            course: note.course.filter(([at]) => at <= ticks),
            ending: off ? null : { kind: "choked" },
          },
        }) as unknown as Change,
    ),
    picked,
  };
};
