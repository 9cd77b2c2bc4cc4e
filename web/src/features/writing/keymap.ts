/** Which key does what, by its place on the board. None needs a modifier; all are buttons too. */

export type Deeds =
  | "play" | "loop" | "slower" | "faster" | "fetch"
  | "hand down" | "hand up" | "hand here" | "where else"
  | "undo" | "redo" | "delete"
  | "bend" | "let down" | "shake" | "slide" | "dead" | "unsure"
  | "shorter" | "longer" | "dot" | "triplet" | "rest" | "join" | "stay" | "open" | "reach" | "move"
  | "left" | "right" | "up" | "down" | "widen left" | "widen right" | "zoom in" | "zoom out" | "block" | "keys" | "escape";

export type Binding = { readonly code: string; readonly deed: Deeds; readonly says: string };

/** Beside the block, for the same hand; shown with `?`. */
export const BINDINGS: readonly Binding[] = [
  { code: "Space", deed: "play", says: "play from the cursor, or stop" },
  { code: "Backslash", deed: "loop", says: "loop the phrase or the marked span" },
  { code: "BracketLeft", deed: "slower", says: "slower by 5 %" },
  { code: "BracketRight", deed: "faster", says: "faster by 5 %" },
  { code: "End", deed: "fetch", says: "fetch the cursor to the playhead" },
  { code: "Digit7", deed: "hand down", says: "hand one fret towards the nut" },
  { code: "Digit8", deed: "hand up", says: "hand one fret up the neck" },
  { code: "Home", deed: "hand here", says: "hand to where it seems to be" },
  { code: "Insert", deed: "block", says: "slide the block by a string, with seven or eight" },
  { code: "Digit9", deed: "where else", says: "the same pitch at another place" },
  { code: "Digit0", deed: "open", says: "the next column key is the open string" },
  { code: "Enter", deed: "reach", says: "the next key reaches one fret further" },
  { code: "Minus", deed: "undo", says: "take back" },
  { code: "Equal", deed: "redo", says: "bring back" },
  { code: "KeyU", deed: "bend", says: "bend, again: wider" },
  { code: "KeyI", deed: "let down", says: "let a bend down" },
  { code: "KeyO", deed: "shake", says: "shake, again: wide" },
  { code: "KeyP", deed: "slide", says: "slide into the note" },
  { code: "KeyJ", deed: "shorter", says: "shorter" },
  { code: "KeyK", deed: "longer", says: "longer" },
  { code: "KeyL", deed: "dot", says: "dotted" },
  { code: "Semicolon", deed: "triplet", says: "in a triplet" },
  { code: "Quote", deed: "dead", says: "dead note" },
  { code: "KeyM", deed: "rest", says: "rest" },
  { code: "Comma", deed: "join", says: "join the next note: hammer-on, pull-off or tie" },
  { code: "Period", deed: "stay", says: "the next string goes on the same place" },
  { code: "Slash", deed: "unsure", says: "unsure" },
  { code: "Backquote", deed: "move", says: "arrows move the note, - and = zoom, while this is on" },
  { code: "Delete", deed: "delete", says: "delete the note, or all that are marked" },
  { code: "Backspace", deed: "delete", says: "delete the note, or all that are marked" },
  { code: "ArrowLeft", deed: "left", says: "cursor one step back" },
  { code: "ArrowRight", deed: "right", says: "cursor one step on" },
  { code: "ArrowUp", deed: "up", says: "cursor one string up" },
  { code: "ArrowDown", deed: "down", says: "cursor one string down" },
  { code: "Escape", deed: "escape", says: "let go of what is marked" },
];

/** The deed of a key, with the hand on the other side of the board its mirror image. */
const MIRROR: Readonly<Record<string, string>> = {
  Digit1: "Digit7", Digit2: "Digit8", Digit3: "Digit9", Digit4: "Digit0",
  KeyQ: "KeyU", KeyW: "KeyI", KeyE: "KeyO", KeyR: "KeyP",
  KeyA: "KeyJ", KeyS: "KeyK", KeyD: "KeyL", KeyF: "Semicolon",
  KeyZ: "KeyM", KeyX: "Comma", KeyC: "Period", KeyV: "Slash",
};

export const deedOf = (code: string, mirrored: boolean): Deeds | null => {
  const seen = mirrored ? (MIRROR[code] ?? code) : code;
  return BINDINGS.find((binding) => binding.code === seen)?.deed ?? null;
};

/** The key of a deed as it stands on the board now. */
export const codeOf = (deed: Deeds, mirrored: boolean): string => {
  const code = BINDINGS.find((binding) => binding.deed === deed)?.code ?? "";
  if (!mirrored) return code;
  return Object.entries(MIRROR).find(([, usual]) => usual === code)?.[0] ?? code;
};
