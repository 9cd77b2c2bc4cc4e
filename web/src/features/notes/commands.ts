/** What can be done to the notes, and with the hand that writes them. */
import { table } from "@/score/commands";
import { atHand, select, type Selection, setCursor } from "@/score/cursor";
import { openDocument, stringCount } from "@/score/document";
import { bend, release, slideInto, toggleDead, toggleSure, vibrato } from "@/score/shaping";
import { clearLatches, entryNow, type Latches, setEntry, setLatch } from "@/score/entry";
import { guessPosition } from "@/score/hand";
import { useSaving } from "@/score/saving";
import { redo, undo } from "@/score/sending";
import { askOtherChanges, openMenu, openTool, shownNow, zoomBy } from "@/score/shown";
import { cut, shapeBy, spread, stroke, walk } from "@/score/techniques";
import { repeatFigure, strikeAgain, writeChord } from "./figures";
import { showOtherPlaces, takeWay } from "./fingerings";
import {
  changeLength,
  changeLoudness,
  holdStay,
  moveByFret,
  moveHand,
  moveByStep,
  noNote,
  noSingleNote,
  noStack,
  nothingToRemove,
  ofStack,
  remove,
  shapeInHand,
  step,
  stepString,
  widen,
  restHere,
} from "./writing";

const TUPLETS = [0, 5, 6, 7];
const FRETS_OF_AN_OCTAVE = 12;

const shape = (name: string) => () => shapeInHand((note, tables) => shapeBy(name, note, tables));
const inTurns =
  (...names: string[]) =>
  () =>
    shapeInHand((note, tables) => walk(names, note, tables));
const latch = (name: keyof Latches) => () => setLatch(name);
/** While the move latch is on, arrows move the note and the keys of undo and redo zoom. */
const moving = (): boolean => entryNow().latches.move;
const notMoved = (): string | null => (moving() ? noSingleNote() : null);

const nothingOf = (which: "undo" | "redo") => (): string | null => {
  const history = openDocument().bench?.history;
  const settled = useSaving.getState().sending === "saved";
  return !moving() && settled && history?.[which] == null ? `There is nothing to ${which}.` : null;
};

const nextTuplet = (): void =>
  changeLength({
    tuplet: TUPLETS[TUPLETS.indexOf(entryNow().tuplet) + 1] ?? 0,
    dot: false,
    triplet: false,
  });
const lengthBy = (by: 1 | -1): void => {
  const last = (openDocument().bench?.tables.lengths.length ?? 1) - 1;
  changeLength({ length: Math.min(last, Math.max(0, entryNow().length + by)) });
};
const slideBlock = (): void => setEntry({ slide: (entryNow().slide + 1) % (1 + Math.max(0, stringCount() - 6)) });

/** What is marked; else the bar at the cursor. */
const spanOrBar = (): Selection | null => {
  const { selection, cursor } = atHand();
  const bar = openDocument().bench?.strip.bars.find((one) => cursor.tick < one.end);
  return selection ?? (bar === undefined ? null : { from: bar.tick, to: bar.end });
};

/** A tool that is open goes first; what is marked stays until the next time. */
const escape = (): void => {
  if (shownNow().tool !== "note") return openTool("note");
  select(null);
  clearLatches();
  setLatch("move", false);
  setCursor({});
};

export const NOTES = table({
  "hand down": { key: "Digit7", says: "hand one fret towards the nut", run: () => moveHand(-1) },
  "hand up": { key: "Digit8", says: "hand one fret up the neck", run: () => moveHand(1) },
  "hand here": {
    key: "Home",
    says: "hand to where it seems to be",
    run: () => setEntry({ position: guessPosition(entryNow().recent, entryNow().position) }),
  },
  "octave up": {
    key: "NumpadAdd",
    shift: "hand up",
    says: "hand twelve frets up",
    run: () => moveHand(FRETS_OF_AN_OCTAVE),
  },
  "octave down": {
    key: "NumpadSubtract",
    shift: "hand down",
    says: "hand twelve frets down",
    run: () => moveHand(-FRETS_OF_AN_OCTAVE),
  },
  block: { key: "Insert", says: "slide the block by a string, with seven or eight", run: slideBlock },
  "where else": { key: "Digit9", says: "the same pitch at another place", run: showOtherPlaces },
  open: { key: "Digit0", says: "the next column key is the open string", run: latch("open") },
  reach: {
    key: "Enter",
    says: "the next key reaches one fret further, or take the fingering that is shown",
    run: () => (shownNow().ways === null ? setLatch("reach") : takeWay()),
  },
  undo: {
    key: "Minus",
    says: "undo",
    atOnce: true,
    blocked: nothingOf("undo"),
    run: () => (moving() ? zoomBy(-1) : void undo()),
  },
  redo: {
    key: "Equal",
    says: "redo",
    atOnce: true,
    blocked: nothingOf("redo"),
    run: () => (moving() ? zoomBy(1) : void redo()),
  },
  bend: { writes: true, key: "KeyU", says: "bend, again: wider", blocked: noNote, run: () => shapeInHand(bend) },
  release: { writes: true, key: "KeyI", says: "release the bend", blocked: noNote, run: () => shapeInHand(release) },
  vibrato: {
    writes: true,
    key: "KeyO",
    says: "vibrato, again: wide",
    blocked: noNote,
    run: () => shapeInHand(vibrato),
  },
  slide: {
    writes: true,
    key: "KeyP",
    says: "slide into the note",
    blocked: noNote,
    run: () => shapeInHand((note) => slideInto(openDocument().elements, note)),
  },
  shorter: { writes: true, key: "KeyJ", says: "shorter", run: () => lengthBy(1) },
  longer: { writes: true, key: "KeyK", says: "longer", run: () => lengthBy(-1) },
  dot: {
    writes: true,
    key: "KeyL",
    says: "dotted",
    run: () => changeLength({ dot: !entryNow().dot, triplet: false, tuplet: 0 }),
  },
  triplet: {
    writes: true,
    key: "Semicolon",
    says: "in a triplet",
    run: () => changeLength({ triplet: !entryNow().triplet, dot: false, tuplet: 0 }),
  },
  dead: { writes: true, key: "Quote", says: "dead note", blocked: noNote, run: () => shapeInHand(toggleDead) },
  rest: { writes: true, key: "KeyM", says: "rest", run: restHere },
  join: { key: "Comma", says: "join the next note: hammer-on, pull-off or tie", run: latch("join") },
  stay: {
    key: "Period",
    says: "the next string goes on the same place; held down: every string",
    held: holdStay,
    run: latch("stay"),
  },
  unsure: { writes: true, key: "Slash", says: "unsure", blocked: noNote, run: () => shapeInHand(toggleSure) },
  move: { key: "Backquote", says: "arrows move the note, - and = zoom, while this is on", run: latch("move") },
  delete: {
    writes: true,
    key: "Delete",
    says: "delete the note, or all that are marked",
    blocked: nothingToRemove,
    run: remove,
  },
  left: {
    key: "ArrowLeft",
    says: "cursor one step back",
    repeats: true,
    blocked: notMoved,
    run: () => (moving() ? moveByStep(-1) : step(-1)),
  },
  right: {
    key: "ArrowRight",
    says: "cursor one step on",
    repeats: true,
    blocked: notMoved,
    run: () => (moving() ? moveByStep(1) : step(1)),
  },
  up: {
    key: "ArrowUp",
    says: "cursor one string up",
    repeats: true,
    blocked: notMoved,
    run: () => (moving() ? moveByFret(1) : stepString(-1)),
  },
  down: {
    key: "ArrowDown",
    says: "cursor one string down",
    repeats: true,
    blocked: notMoved,
    run: () => (moving() ? moveByFret(-1) : stepString(1)),
  },
  "widen left": { shift: "left", says: "mark a span to the left", repeats: true, run: () => widen(-1) },
  "widen right": { shift: "right", says: "mark a span to the right", repeats: true, run: () => widen(1) },
  escape: { key: "Escape", says: "close the tool; then: nothing is marked", run: escape },

  prebend: {
    writes: true,
    shift: "bend",
    says: "prebend, release, curl, choked, bar dip in turn",
    blocked: noNote,
    run: inTurns("prebend", "prebend and release", "curl", "choked bend", "bar dip"),
  },
  "part way": {
    writes: true,
    shift: "release",
    says: "release half-way, release and bend again, full then wider in turn",
    blocked: noNote,
    run: inTurns("release half-way", "release and bend again", "full, then wider"),
  },
  trill: { writes: true, shift: "vibrato", says: "trill, again: wider", blocked: noNote, run: shape("trill") },
  "slide in or off": {
    writes: true,
    shift: "slide",
    says: "slide in from below, from above, off down, off up in turn",
    blocked: noNote,
    run: inTurns("slide in from below", "slide in from above", "slide off downwards", "slide off upwards"),
  },
  ghost: { writes: true, shift: "dead", says: "ghost note", blocked: noNote, run: shape("ghost") },
  accent: { writes: true, shift: "shorter", says: "accent", blocked: noNote, run: shape("accent") },
  "palm mute": { writes: true, shift: "longer", says: "palm mute", blocked: noNote, run: shape("palm mute") },
  "ring or cut": {
    writes: true,
    shift: "dot",
    says: "let ring, choked, short in turn",
    blocked: noNote,
    run: inTurns("let ring", "choked", "short"),
  },
  tuplet: { shift: "triplet", says: "five, six or seven in the time of four", run: nextTuplet },
  cut: {
    writes: true,
    shift: "rest",
    says: "cut the stack: all its strings end on one tick",
    blocked: noStack,
    run: () => ofStack((_, notes, picked) => cut(notes, picked)),
  },
  "tap or harmonic": {
    writes: true,
    shift: "join",
    says: "tapped, natural, pinched, tapped harmonic in turn",
    blocked: noNote,
    run: inTurns("tapped", "natural harmonic", "pinched harmonic", "tapped harmonic"),
  },
  stroke: {
    writes: true,
    shift: "stay",
    says: "stroke of the stack: down, up, together",
    blocked: noStack,
    run: () => ofStack((stack, _, picked) => stroke(stack, picked)),
  },
  spread: {
    writes: true,
    says: "spread of the stack: how long its strings take",
    blocked: noStack,
    run: () => ofStack((stack, _, picked) => spread(stack, picked)),
  },
  doubts: { shift: "where else", says: "the open questions", run: () => openTool("doubts") },
  find: { shift: "open", says: "find, write by pitch, copy", run: () => openTool("find") },
  menu: { shift: "reach", says: "every technique, at the note", run: () => openMenu(true) },
  "by ear": { shift: "move", says: "tap the onsets while it plays", run: () => openTool("by ear") },
  again: { writes: true, shift: "slower", says: "the last figure again", run: () => void repeatFigure(false) },
  tail: {
    writes: true,
    shift: "faster",
    says: "the tail of the last figure again",
    run: () => void repeatFigure(true),
  },
  strike: {
    writes: true,
    shift: "back",
    says: "the last stack or note struck again, in the length in force",
    run: () => void strikeAgain(),
  },
  chord: { writes: true, shift: "hand here", says: "the chart's chord under the hand", run: () => void writeChord() },
  "other changes": {
    says: "other changes over what is marked, or over the bar",
    run: () => askOtherChanges(spanOrBar()),
  },
  louder: {
    writes: true,
    shift: "up",
    says: "a level louder from here, or a swell over what is marked",
    run: () => changeLoudness("louder"),
  },
  softer: { writes: true, shift: "down", says: "a level softer, or a swell", run: () => changeLoudness("softer") },
  "zoom out": { shift: "undo", says: "see more of the strip", atOnce: true, run: () => zoomBy(-1) },
  "zoom in": { shift: "redo", says: "see less, larger", atOnce: true, run: () => zoomBy(1) },
});
export type NotesCommand = keyof typeof NOTES;
