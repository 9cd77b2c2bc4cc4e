/** Which key does what, by its place on the board. None needs a modifier; all are buttons too, and can be bound anew. */
import { blockRows, stringKeys } from "@/score/hand";

export type Deeds =
  | "play"
  | "loop"
  | "slower"
  | "faster"
  | "fetch"
  | "next phrase"
  | "phrase before"
  | "hand down"
  | "hand up"
  | "octave up"
  | "octave down"
  | "hand here"
  | "where else"
  | "undo"
  | "redo"
  | "delete"
  | "bend"
  | "release"
  | "vibrato"
  | "slide"
  | "dead"
  | "unsure"
  | "shorter"
  | "longer"
  | "dot"
  | "triplet"
  | "rest"
  | "join"
  | "stay"
  | "open"
  | "reach"
  | "move"
  | "prebend"
  | "part way"
  | "trill"
  | "slide in or off"
  | "ghost"
  | "accent"
  | "palm mute"
  | "ring or cut"
  | "tuplet"
  | "cut"
  | "tap or harmonic"
  | "stroke"
  | "doubts"
  | "find"
  | "hear"
  | "menu"
  | "by ear"
  | "again"
  | "tail"
  | "strike"
  | "chord"
  | "louder"
  | "softer"
  | "left"
  | "right"
  | "up"
  | "down"
  | "widen left"
  | "widen right"
  | "zoom in"
  | "zoom out"
  | "block"
  | "keys"
  | "escape";

export type Binding = { readonly code: string; readonly deed: Deeds; readonly says: string };
export type Own = Readonly<Partial<Record<Deeds, string>>>; // keys that the reader has bound anew

/** How the keys lie for this reader. */
export type Keys = { readonly mirrored: boolean; readonly numbers: boolean; readonly own: Own; readonly off: boolean };

/** What the reader has set about keys; kept in the browser. */
export type KeySettings = {
  readonly mirrorHand: boolean;
  readonly numbers: boolean; // string-and-number entry in the place of the hand block
  readonly keysOff: boolean;
  readonly pedalArrows: boolean;
  readonly own: Own;
};
export const PRESET_KEYS: KeySettings = {
  mirrorHand: false,
  numbers: false,
  keysOff: false,
  pedalArrows: false,
  own: {},
};
/** Names under which earlier releases kept a key of the reader's own. */
const EARLIER: Readonly<Record<string, Deeds>> = { shake: "vibrato", "let down": "release" };
const ofToday = (own: Own): Own =>
  Object.fromEntries(Object.entries(own).map(([name, code]) => [EARLIER[name] ?? name, code]));
export const keysOf = (set: KeySettings): Keys => ({
  mirrored: set.mirrorHand,
  numbers: set.numbers,
  own: ofToday(set.own),
  off: set.keysOff,
});

/** Beside the block, for the same hand; shown with `?`. */
export const BINDINGS: readonly Binding[] = [
  { code: "Space", deed: "play", says: "play from the cursor, or stop" },
  { code: "Backslash", deed: "loop", says: "loop the phrase or the marked span" },
  { code: "BracketLeft", deed: "slower", says: "slower by 5 %, or a step down" },
  { code: "BracketRight", deed: "faster", says: "faster by 5 %, or a step up" },
  { code: "End", deed: "fetch", says: "fetch the cursor to the playhead" },
  { code: "Digit7", deed: "hand down", says: "hand one fret towards the nut" },
  { code: "Digit8", deed: "hand up", says: "hand one fret up the neck" },
  { code: "Home", deed: "hand here", says: "hand to where it seems to be" },
  { code: "NumpadAdd", deed: "octave up", says: "hand twelve frets up" },
  { code: "NumpadSubtract", deed: "octave down", says: "hand twelve frets down" },
  { code: "Insert", deed: "block", says: "slide the block by a string, with seven or eight" },
  { code: "Digit9", deed: "where else", says: "the same pitch at another place" },
  { code: "Digit0", deed: "open", says: "the next column key is the open string" },
  { code: "Enter", deed: "reach", says: "the next key reaches one fret further" },
  { code: "Minus", deed: "undo", says: "undo" },
  { code: "Equal", deed: "redo", says: "redo" },
  { code: "KeyU", deed: "bend", says: "bend, again: wider" },
  { code: "KeyI", deed: "release", says: "release the bend" },
  { code: "KeyO", deed: "vibrato", says: "vibrato, again: wide" },
  { code: "KeyP", deed: "slide", says: "slide into the note" },
  { code: "KeyJ", deed: "shorter", says: "shorter" },
  { code: "KeyK", deed: "longer", says: "longer" },
  { code: "KeyL", deed: "dot", says: "dotted" },
  { code: "Semicolon", deed: "triplet", says: "in a triplet" },
  { code: "Quote", deed: "dead", says: "dead note" },
  { code: "KeyM", deed: "rest", says: "rest" },
  { code: "Comma", deed: "join", says: "join the next note: hammer-on, pull-off or tie" },
  { code: "Period", deed: "stay", says: "the next string goes on the same place; held down: every string" },
  { code: "Slash", deed: "unsure", says: "unsure" },
  { code: "Backquote", deed: "move", says: "arrows move the note, - and = zoom, while this is on" },
  { code: "Delete", deed: "delete", says: "delete the note, or all that are marked" },
  { code: "ArrowLeft", deed: "left", says: "cursor one step back" },
  { code: "ArrowRight", deed: "right", says: "cursor one step on" },
  { code: "ArrowUp", deed: "up", says: "cursor one string up" },
  { code: "ArrowDown", deed: "down", says: "cursor one string down" },
  { code: "Escape", deed: "escape", says: "let go of what is marked" },
];
/** With shift a key beside the block does what lies near its own deed; it moves along when that is bound anew. */
export const SHIFTED: readonly { readonly of: Deeds; readonly deed: Deeds; readonly says: string }[] = [
  { of: "bend", deed: "prebend", says: "prebend, release, curl, choked, bar dip in turn" },
  { of: "release", deed: "part way", says: "release half-way, release and bend again, full then wider in turn" },
  { of: "vibrato", deed: "trill", says: "trill, again: wider" },
  { of: "slide", deed: "slide in or off", says: "slide in from below, from above, off down, off up in turn" },
  { of: "dead", deed: "ghost", says: "ghost note" },
  { of: "shorter", deed: "accent", says: "accent" },
  { of: "longer", deed: "palm mute", says: "palm mute" },
  { of: "dot", deed: "ring or cut", says: "let ring, choked, short in turn" },
  { of: "triplet", deed: "tuplet", says: "five, six or seven in the time of four" },
  { of: "rest", deed: "cut", says: "cut the stack: all its strings end on one tick" },
  { of: "join", deed: "tap or harmonic", says: "tapped, natural, pinched, tapped harmonic in turn" },
  { of: "stay", deed: "stroke", says: "stroke of the stack: down, up, together" },
  { of: "where else", deed: "doubts", says: "the open questions" },
  { of: "open", deed: "find", says: "find, write by pitch, copy" },
  { of: "loop", deed: "hear", says: "hear the recording, the writing, or both apart" },
  { of: "reach", deed: "menu", says: "every technique, at the note" },
  { of: "move", deed: "by ear", says: "tap the onsets while it plays" },
  { of: "slower", deed: "again", says: "the last figure again" },
  { of: "faster", deed: "tail", says: "the tail of the last figure again" },
  { of: "fetch", deed: "strike", says: "the last stack or note struck again, in the length in force" },
  { of: "hand here", deed: "chord", says: "the chart's chord under the hand" },
  { of: "hand down", deed: "octave down", says: "hand twelve frets down" },
  { of: "hand up", deed: "octave up", says: "hand twelve frets up" },
  { of: "up", deed: "louder", says: "a level louder from here, or a swell over what is marked" },
  { of: "down", deed: "softer", says: "a level softer, or a swell" },
  { of: "undo", deed: "zoom out", says: "see more of the strip" },
  { of: "redo", deed: "zoom in", says: "see less, larger" },
];
export const shifted = (deed: Deeds): Deeds => SHIFTED.find((one) => one.of === deed)?.deed ?? deed;

const AS_WELL: Readonly<Record<string, Deeds>> = { Backspace: "delete" };

/** With the hand on the other side of the board each key is its mirror image. */
const MIRROR: Readonly<Record<string, string>> = {
  Digit1: "Digit7",
  Digit2: "Digit8",
  Digit3: "Digit9",
  Digit4: "Digit0",
  KeyQ: "KeyU",
  KeyW: "KeyI",
  KeyE: "KeyO",
  KeyR: "KeyP",
  KeyA: "KeyJ",
  KeyS: "KeyK",
  KeyD: "KeyL",
  KeyF: "Semicolon",
  KeyZ: "KeyM",
  KeyX: "Comma",
  KeyC: "Period",
  KeyV: "Slash",
};
/** Digits are frets in string-and-number entry; what they did lies on the row above the home row. */
const FOR_DIGITS: Own = { "hand down": "KeyQ", "hand up": "KeyW", "where else": "KeyE", open: "KeyR" };

const preset = (deed: Deeds, keys: Keys): string => {
  const code = BINDINGS.find((binding) => binding.deed === deed)?.code ?? "";
  const forDigits = keys.numbers ? FOR_DIGITS[deed] : undefined;
  if (forDigits !== undefined) return keys.mirrored ? (MIRROR[forDigits] ?? forDigits) : forDigits;
  if (!keys.mirrored) return code;
  return Object.entries(MIRROR).find(([, usual]) => usual === code)?.[0] ?? code;
};

/** The key of a deed as it stands on the board now. */
export const codeOf = (deed: Deeds, keys: Keys): string => keys.own[deed] ?? preset(deed, keys);

export const deedOf = (code: string, keys: Keys): Deeds | null =>
  BINDINGS.find((binding) => codeOf(binding.deed, keys) === code)?.deed ?? AS_WELL[code] ?? null;

/** Bind a deed to a key; another deed that had it takes the old key. A sentence when the key cannot be had. */
export const bound = (deed: Deeds, code: string, keys: Keys): Own | string => {
  if (
    [
      "Tab",
      "ShiftLeft",
      "ShiftRight",
      "ControlLeft",
      "ControlRight",
      "AltLeft",
      "AltRight",
      "MetaLeft",
      "MetaRight",
    ].includes(code) ||
    /^F\d/.test(code)
  ) {
    return "This key belongs to the browser.";
  }
  if (PEDAL_PAGES.includes(code)) return "Page keys belong to the pedal.";
  if (writes(code, keys)) return "This key writes notes: choose one beside the hand block.";
  const other = deedOf(code, keys);
  const before = codeOf(deed, keys);
  return { ...keys.own, ...(other !== null && other !== deed ? { [other]: before } : {}), [deed]: code };
};

/** Whether a key writes notes or chooses strings. */
export const writes = (code: string, keys: Keys): boolean =>
  keys.numbers
    ? stringKeys(keys.mirrored).includes(code) || /^Digit\d$/.test(code)
    : blockRows(keys.mirrored).flat().includes(code);

const PEDAL_PAGES = ["PageDown", "PageUp"];

/** What a page-turn pedal does, wherever the focus is: play or stop, and on to the next phrase. Arrows only when given. */
export const pedalDeed = (code: string, arrows: boolean): Deeds | null => {
  if (code === "PageDown" || (arrows && code === "ArrowRight")) return "play";
  if (code === "PageUp" || (arrows && code === "ArrowLeft")) return "next phrase";
  if (arrows && code === "ArrowDown") return "loop";
  return arrows && code === "ArrowUp" ? "phrase before" : null;
};
