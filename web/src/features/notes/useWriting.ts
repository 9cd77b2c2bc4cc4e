/** What the keys and the buttons do to the solo in hand. */
import { type KeyboardEvent, useCallback, useEffect } from "react";
import {
  type BenchState,
  bounds,
  clearLatches,
  handOf,
  hint,
  noteAtCursor,
  openMenu,
  openTool,
  pick,
  pickedNote,
  select,
  setCursor,
  setEntry,
  setLatch,
  ticksOf,
  useBench,
} from "@/score/bench";
import { act, inTurn, redo, undo } from "@/score/sending";
import * as edits from "@/score/edits";
import { guessPosition, learnLetter, type Place, placeOf, stringKeys } from "@/score/hand";
import type { Note, Stack } from "@/score/types";
import { stepLevel, swell } from "@/score/loudness";
import { cut, shapeBy, stroke, walk } from "@/score/techniques";
import { askWays, type HandSize, nextWay, takeWay } from "./HandTool";
import { codeOf, type Deeds, deedOf, type Keys, pedalDeed, shifted } from "./keymap";
import { repeatFigure, strikeAgain, writeChord } from "./figures";
import { NOTHING_IN_HAND, shapeInHand } from "./shaping";

export type Outside = {
  readonly keys: Keys;
  readonly pedalArrows: boolean;
  readonly play: () => void;
  readonly loop: () => void;
  readonly phrase: (by: 1 | -1) => void;
  readonly faster: (by: number) => void;
  readonly zoom: (by: number) => void;
  readonly position: () => number | null;
  readonly showKeys: () => void;
  readonly hear: () => void;
  readonly handSize: HandSize;
};

const get = useBench.getState;
const RECENT = 6;
const FRACTION = 0.25; // of a fret, under a bottleneck

const withNote = (build: (note: Note, state: BenchState) => edits.Deed | edits.Nothing | null): void => {
  const state = get();
  const note = pickedNote(state) ?? noteAtCursor(state);
  if (note === null) hint(NOTHING_IN_HAND);
  else act(build(note, state));
};

// While the key of `stay` is held down every string goes on the same place: a chord is one key a string.
let staying: "held" | "used" | null = null;
export const holdStay = (down: boolean): void => {
  if (!down && staying === "used") setLatch("stay", false);
  staying = down ? (staying ?? "held") : null;
};

/** Write at the cursor, and move on. `shift` joins as the latch does. */
export const writeAt = (place: Place, shift: boolean): void => {
  const state = get();
  if (state.bench === null) return;
  const { latches, cursor, entry } = state;
  const last = state.picked === null ? undefined : state.elements.notes[state.picked];
  const tick = latches.stay && last !== undefined ? last.tick : cursor.tick;
  if (tick >= bounds(state)[1]) {
    hint("The strip ends here. Add bars in Setup.");
    return;
  }
  const ticks = latches.stay && last !== undefined ? last.ticks : ticksOf(state);
  const deed = edits.writeNote(
    state.elements,
    { tick, ticks, ...place, slides: state.bench.solo.settings.bottleneck && !latches.stay },
    latches.join || shift,
  );
  act(deed);
  const written = deed.picked === null ? undefined : get().elements.notes[deed.picked];
  setEntry({ recent: [...entry.recent.slice(1 - RECENT), place] });
  clearLatches();
  if (staying !== null) {
    staying = "used";
    setLatch("stay", true);
  }
  if (written !== undefined) setCursor({ tick: written.tick + written.ticks, string: place.string }, written.id);
};

const step = (by: number): void => {
  const state = get();
  setCursor({ tick: state.cursor.tick + by * ticksOf(state) });
};

const widen = (by: number): void => {
  const { cursor, selection } = get();
  const anchor = selection === null ? cursor.tick : selection.from === cursor.tick ? selection.to : selection.from;
  step(by);
  const tick = get().cursor.tick;
  select({ from: Math.min(anchor, tick), to: Math.max(anchor, tick) });
};

const changeLength = (change: Partial<BenchState["entry"]>): void => {
  setEntry(change);
  const state = get();
  const note = pickedNote(state);
  if (note === null) return;
  const follows = state.cursor.tick === note.tick + note.ticks;
  act(edits.setLength(state.elements, note, ticksOf(state)));
  const now = get().elements.notes[note.id];
  if (follows && now !== undefined) setCursor({ tick: now.tick + now.ticks }, note.id);
};

const moved = (arrow: "left" | "right" | "up" | "down"): void =>
  withNote((note, state) => {
    if (arrow === "left" || arrow === "right") {
      const deed = edits.moveInTime(
        state.elements,
        note,
        note.tick + (arrow === "left" ? -1 : 1) * ticksOf(state),
        bounds(state),
      );
      const to = "changes" in deed ? (deed.changes[0]?.after as Note | undefined)?.tick : undefined;
      if (to !== undefined) setCursor({ tick: to }, note.id);
      return deed;
    }
    const step = state.bench?.solo.settings.bottleneck === true ? FRACTION : 1;
    return edits.moveFret(note, arrow === "up" ? step : -step, state.bench?.tables.highest_fret ?? 22);
  });

const TUPLETS = [0, 5, 6, 7];

const shaped = (name: string): void => shapeInHand((note, tables) => shapeBy(name, note, tables));
const walked = (...names: string[]): void => shapeInHand((note, tables) => walk(names, note, tables));

/** Do something to the stack of the note in hand. */
const ofStack = (build: (stack: Stack, notes: readonly Note[], picked: string) => edits.Deed): void =>
  withNote((note, { elements }) => {
    const stack = note.stack == null ? undefined : elements.stacks[note.stack];
    if (stack !== undefined)
      return build(
        stack,
        edits.inOrder(elements.notes).filter((one) => one.stack === stack.id),
        note.id,
      );
    hint("This note stands alone. A stroke and a cut need notes that start together.");
    return null;
  });

/** A swell over what is marked, else one level from the note in hand or the cursor on. */
const grow = (to: "louder" | "softer"): void => {
  const state = get();
  const { elements, selection, picked } = state;
  const tick = (pickedNote(state) ?? noteAtCursor(state))?.tick ?? state.cursor.tick;
  const deed = selection !== null ? swell(elements, selection, to, picked) : stepLevel(elements, tick, to, picked);
  if (deed === null) hint(`There is no level ${to} than this.`);
  else act(deed);
};

/** Where else it lies: shown on the neck; again: the next; enter takes it. */
const whereElse = (hand: HandSize): void => {
  const { tool, ways } = get();
  if (tool === "hand" && ways !== null) nextWay();
  else
    void askWays(hand).then((trouble) => {
      if (trouble === null) openTool("hand");
      else hint(trouble);
    });
};

const rest = (): void => {
  const state = get();
  const ticks = ticksOf(state);
  const [, last] = bounds(state);
  if (state.cursor.tick >= last) return;
  act(edits.writeRest(state.elements, state.cursor.tick, ticks));
  setCursor({ tick: state.cursor.tick + ticks });
};

const remove = (): void => {
  const state = get();
  const { selection } = state;
  if (selection !== null) {
    const inside = (element: { tick: number }) => element.tick >= selection.from && element.tick < selection.to;
    const notes = edits
      .inOrder(state.elements.notes)
      .filter(inside)
      .map((note) => note.id);
    const rests = Object.values(state.elements.rests)
      .filter(inside)
      .map((one) => one.id);
    if (notes.length + rests.length > 0) act(edits.removeNotes(state.elements, notes, rests));
    return;
  }
  const note = pickedNote(state) ?? noteAtCursor(state);
  const silence = Object.values(state.elements.rests).find(
    (one) => one.tick <= state.cursor.tick && state.cursor.tick < one.tick + one.ticks,
  );
  if (note === null && silence === undefined) {
    hint("There is nothing to delete here.");
    return;
  }
  act(
    edits.removeNotes(
      state.elements,
      note === null ? [] : [note.id],
      note === null && silence !== undefined ? [silence.id] : [],
    ),
  );
  if (note !== null) setCursor({ tick: note.tick, string: note.string });
};

// The fret that the last digit wrote, and where the cursor went; a second digit joins while it still stands there.
let joining: { readonly note: string; readonly fret: number; readonly tick: number } | null = null;

/** In string-and-number entry: a digit writes its fret on the string of the cursor, a second one joins it. */
export const writeDigit = (digit: number, shift: boolean): void => {
  const state = get();
  const { cursor, picked, elements, bench } = state;
  const note =
    joining !== null && picked === joining.note && cursor.tick === joining.tick
      ? elements.notes[joining.note]
      : undefined;
  const fret = (joining?.fret ?? 0) * 10 + digit;
  if (note !== undefined && joining !== null && joining.fret > 0 && fret <= (bench?.tables.frets ?? 22)) {
    act(edits.withSecondDigit(elements, note, fret));
    joining = null;
    return;
  }
  writeAt({ string: cursor.string, fret: digit }, shift);
  const now = get();
  joining = now.picked === null ? null : { note: now.picked, fret: digit, tick: now.cursor.tick };
};

const chooseString = (string: number): void => {
  joining = null;
  setCursor({ string }, get().picked);
};

const hand = (by: number): void => {
  const state = get();
  const highest = Math.max(0, (state.bench?.tables.frets ?? 22) - 3);
  setEntry({ position: Math.min(highest, Math.max(0, state.entry.position + by)) });
};

/** Ctrl or Cmd with Z, shift Z and Y, as hands do it everywhere. */
const habit = ({ ctrlKey, metaKey, altKey, shiftKey, key }: globalThis.KeyboardEvent): "undo" | "redo" | null => {
  if (altKey || !(ctrlKey || metaKey)) return null;
  const letter = key.toLowerCase();
  return letter === "y" ? "redo" : letter === "z" ? (shiftKey ? "redo" : "undo") : null;
};

/** What waits for nobody: the player and the view, and what takes its place in the line itself. */
const AT_ONCE: ReadonlySet<Deeds> = new Set<Deeds>([
  "play",
  "loop",
  "slower",
  "faster",
  "zoom in",
  "zoom out",
  "keys",
  "hear",
  "undo",
  "redo",
]);

export function useWriting(outside: Outside) {
  const { keys, pedalArrows, play, loop, phrase, faster, zoom, position, showKeys, hear, handSize } = outside;
  const doIt = useCallback(
    (deed: Deeds) => {
      const state = get();
      const { latches, entry } = state;
      switch (deed) {
        case "play":
          return play();
        case "loop":
          return loop();
        case "slower":
          return faster(-1);
        case "faster":
          return faster(1);
        case "zoom in":
          return zoom(1);
        case "zoom out":
          return zoom(-1);
        case "keys":
          return showKeys();
        case "undo":
          return latches.move ? zoom(-1) : void undo();
        case "redo":
          return latches.move ? zoom(1) : void redo();
        case "fetch": {
          const second = position();
          if (second !== null) setCursor({ tick: Math.round(state.grid.tick(second)) });
          return undefined;
        }
        case "hand down":
          return hand(-1);
        case "hand up":
          return hand(1);
        case "octave up":
          return hand(12);
        case "octave down":
          return hand(-12);
        case "next phrase":
          return phrase(1);
        case "phrase before":
          return phrase(-1);
        case "hand here":
          return setEntry({ position: guessPosition(entry.recent, entry.position) });
        case "block":
          return setEntry({
            slide: (entry.slide + 1) % (1 + Math.max(0, (state.bench?.tables.strings.length ?? 6) - 6)),
          });
        case "where else":
          return whereElse(handSize);
        case "prebend":
          return walked("prebend", "prebend and release", "curl", "choked bend", "bar dip");
        case "part way":
          return walked("release half-way", "release and bend again", "full, then wider");
        case "trill":
          return shaped("trill");
        case "slide in or off":
          return walked("slide in from below", "slide in from above", "slide off downwards", "slide off upwards");
        case "ghost":
          return shaped("ghost");
        case "accent":
          return shaped("accent");
        case "palm mute":
          return shaped("palm mute");
        case "ring or cut":
          return walked("let ring", "choked", "short");
        case "tap or harmonic":
          return walked("tapped", "natural harmonic", "pinched harmonic", "tapped harmonic");
        case "tuplet":
          return changeLength({ tuplet: TUPLETS[TUPLETS.indexOf(entry.tuplet) + 1] ?? 0, dot: false, triplet: false });
        case "cut":
          return ofStack((_, notes, picked) => cut(notes, picked));
        case "stroke":
          return ofStack((stack, _, picked) => stroke(stack, picked));
        case "doubts":
          return openTool("doubts");
        case "find":
          return openTool("find");
        case "by ear":
          return openTool("by ear");
        case "menu":
          return openMenu(true);
        case "hear":
          return hear();
        case "strike":
          return void strikeAgain();
        case "chord":
          return void writeChord();
        case "again":
          return void repeatFigure(false);
        case "tail":
          return void repeatFigure(true);
        case "louder":
        case "softer":
          return grow(deed);
        case "delete":
          return remove();
        case "bend":
          return shapeInHand(edits.bend);
        case "release":
          return shapeInHand(edits.release);
        case "vibrato":
          return shapeInHand(edits.vibrato);
        case "slide":
          return shapeInHand((note) => edits.slideInto(get().elements, note));
        case "dead":
          return shapeInHand(edits.toggleDead);
        case "unsure":
          return shapeInHand(edits.toggleSure);
        case "shorter":
          return changeLength({ length: Math.min((state.bench?.tables.lengths.length ?? 1) - 1, entry.length + 1) });
        case "longer":
          return changeLength({ length: Math.max(0, entry.length - 1) });
        case "dot":
          return changeLength({ dot: !entry.dot, triplet: false, tuplet: 0 });
        case "triplet":
          return changeLength({ triplet: !entry.triplet, dot: false, tuplet: 0 });
        case "rest":
          return rest();
        case "join":
          return setLatch("join");
        case "stay":
          return setLatch("stay");
        case "open":
          return setLatch("open");
        case "reach":
          return state.ways === null ? setLatch("reach") : takeWay();
        case "move":
          return setLatch("move");
        case "left":
          return latches.move ? moved("left") : step(-1);
        case "right":
          return latches.move ? moved("right") : step(1);
        case "up":
          return latches.move ? moved("up") : setCursor({ string: Math.max(1, state.cursor.string - 1) }, state.picked);
        case "down":
          return latches.move
            ? moved("down")
            : setCursor(
                { string: Math.min(state.bench?.tables.strings.length ?? 6, state.cursor.string + 1) },
                state.picked,
              );
        case "widen left":
          return widen(-1);
        case "widen right":
          return widen(1);
        case "escape": {
          if (state.tool !== "note") return openTool("note"); // what is marked stays
          select(null);
          clearLatches();
          setLatch("move", false);
          return setCursor({});
        }
      }
    },
    [play, loop, phrase, faster, zoom, position, showKeys, hear, handSize],
  );
  const run = useCallback((deed: Deeds) => (AT_ONCE.has(deed) ? doIt(deed) : inTurn(() => doIt(deed))), [doIt]);

  // The pedal works wherever the focus is, but for text and dialogs.
  useEffect(() => {
    const onPedal = (event: globalThis.KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (
        event.repeat ||
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        event.shiftKey ||
        target.closest("input, textarea, select, [role=dialog], [role=menu], [role=radiogroup]") !== null
      )
        return;
      const deed = pedalDeed(event.code, pedalArrows);
      if (deed === null) return;
      event.preventDefault();
      event.stopPropagation();
      run(deed);
    };
    window.addEventListener("keydown", onPedal, true);
    return () => {
      window.removeEventListener("keydown", onPedal, true);
    };
  }, [run, pedalArrows]);

  useEffect(() => {
    const onHabit = (event: globalThis.KeyboardEvent) => {
      const deed = habit(event);
      if (
        deed === null ||
        (event.target as HTMLElement).closest("input, textarea, select, [role=dialog], [role=menu]") !== null
      )
        return;
      event.preventDefault();
      void (deed === "undo" ? undo() : redo());
    };
    window.addEventListener("keydown", onHabit);
    return () => {
      window.removeEventListener("keydown", onHabit);
    };
  }, []);

  useEffect(() => {
    const letGo = (event: Event) => {
      if (!(event instanceof globalThis.KeyboardEvent) || event.code === codeOf("stay", keys)) holdStay(false);
    };
    window.addEventListener("keyup", letGo);
    window.addEventListener("blur", letGo);
    return () => {
      window.removeEventListener("keyup", letGo);
      window.removeEventListener("blur", letGo);
    };
  }, [keys]);

  const onKey = useCallback(
    (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.nativeEvent.isComposing) return;
      const target = event.target as HTMLElement;
      if (target !== event.currentTarget && target.getAttribute("role") !== "option") return;
      if (event.key === "?") {
        event.preventDefault();
        showKeys();
        return;
      }
      const state = get();
      learnLetter(event.code, event.shiftKey ? "" : event.key);
      const goes = event.code.startsWith("Arrow") && !(event.shiftKey && /Up|Down/.test(event.code));
      if (keys.off && !["Space", "Escape"].includes(event.code) && !goes) return;
      if (keys.numbers && !event.repeat) {
        const column = stringKeys(keys.mirrored).indexOf(event.code);
        const strings = state.bench?.tables.strings.length ?? 6;
        const string = 6 - column + Math.max(0, strings - 6) - state.entry.slide;
        if (column >= 0 && string >= 1 && string <= strings) {
          event.preventDefault();
          inTurn(() => chooseString(string));
          return;
        }
        if (/^Digit\d$/.test(event.code)) {
          event.preventDefault();
          inTurn(() => writeDigit(Number(event.code.slice(5)), event.shiftKey));
          return;
        }
      }
      const place = keys.numbers ? null : placeOf(handOf(state, keys.mirrored), event.code, state.latches);
      const deed = deedOf(event.code, keys);
      if (place === null && deed === null) return;
      event.preventDefault();
      joining = null;
      const arrow = deed === "left" || deed === "right" || deed === "up" || deed === "down";
      if (event.repeat && !arrow) return;
      if (deed === "stay" && !event.shiftKey) holdStay(true);
      if (place !== null) inTurn(() => writeAt(place, event.shiftKey));
      else if (deed !== null)
        run(!event.shiftKey ? deed : deed === "left" ? "widen left" : deed === "right" ? "widen right" : shifted(deed));
    },
    [keys, run, showKeys],
  );
  return { run, onKey };
}

/** Put the cursor on the note before or after, for who goes through a solo by ear. */
export const nextNote = (by: 1 | -1): void => {
  const state = get();
  const notes = edits.inOrder(state.elements.notes);
  const at = state.picked === null ? -1 : notes.findIndex((note) => note.id === state.picked);
  const next =
    at >= 0
      ? notes[at + by]
      : by > 0
        ? notes.find((note) => note.tick >= state.cursor.tick)
        : notes.findLast((note) => note.tick < state.cursor.tick);
  if (next !== undefined) pick(next);
};
