/** The hand block: which key of the board lies on which place of the neck. By place of the key, not by its letter. */

export const BLOCK: readonly (readonly string[])[] = [
  ["Digit1", "Digit2", "Digit3", "Digit4", "Digit5", "Digit6"],
  ["KeyQ", "KeyW", "KeyE", "KeyR", "KeyT", "KeyY"],
  ["KeyA", "KeyS", "KeyD", "KeyF", "KeyG", "KeyH"],
  ["KeyZ", "KeyX", "KeyC", "KeyV", "KeyB", "KeyN"],
];
const MIRRORED: readonly (readonly string[])[] = [
  ["Digit0", "Digit9", "Digit8", "Digit7", "Digit6", "Digit5"],
  ["KeyP", "KeyO", "KeyI", "KeyU", "KeyY", "KeyT"],
  ["Semicolon", "KeyL", "KeyK", "KeyJ", "KeyH", "KeyG"],
  ["Slash", "Period", "Comma", "KeyM", "KeyN", "KeyB"],
];
const COLUMNS = 6;

export type Hand = {
  /** Fret of the first row; 0 has the open string there. */
  readonly position: number;
  /** Strings of the instrument. */
  readonly strings: number;
  /** How far the block is slid towards string 1, for seven and eight strings. */
  readonly slide: number;
  readonly mirrored: boolean;
};

export type Place = { readonly string: number; readonly fret: number };

const block = (hand: Hand) => blockRows(hand.mirrored);

/** The string under a column: columns are strings 6 to 1 from the left; null where the column is dead. */
const stringOf = (hand: Hand, column: number): number | null => {
  const string = COLUMNS - column + Math.max(0, hand.strings - COLUMNS) - hand.slide;
  return string >= 1 && string <= hand.strings ? string : null;
};

/** The place that a key writes, or null. `reach` is one fret further, `open` the open string. */
export const placeOf = (hand: Hand, code: string, latch: { open: boolean; reach: boolean }): Place | null => {
  const rows = block(hand);
  for (let row = 0; row < rows.length; row += 1) {
    const column = rows[row]?.indexOf(code) ?? -1;
    if (column < 0) continue;
    const string = stringOf(hand, column);
    if (string === null) return null;
    return { string, fret: latch.open ? 0 : hand.position + row + (latch.reach ? 1 : 0) };
  }
  return null;
};

/** Every key of the block with its place, for the neck seen from above. */
export const keysOnNeck = (hand: Hand): { code: string; place: Place }[] =>
  block(hand).flatMap((codes, row) =>
    codes.flatMap((code, column) => {
      const string = stringOf(hand, column);
      return string === null ? [] : [{ code, place: { string, fret: hand.position + row } }];
    }),
  );

/** Columns without a string, said where the block is shown. */
export const deadColumns = (hand: Hand): number => Math.max(0, COLUMNS - hand.strings);

/** The home row: strings 6 to 1 from the left, or from the right when mirrored. */
export const stringKeys = (mirrored: boolean): readonly string[] =>
  mirrored ? ["Semicolon", "KeyL", "KeyK", "KeyJ", "KeyH", "KeyG"] : ["KeyA", "KeyS", "KeyD", "KeyF", "KeyG", "KeyH"];

/** The string that a key of the home row chooses, in string-and-number entry. */
export const stringAtKey = (hand: Hand, code: string): number | null => {
  const column = stringKeys(hand.mirrored).indexOf(code);
  return column < 0 ? null : stringOf(hand, column);
};

/** The keys of the block, row by row, from string 6 to string 1. */
export const blockRows = (mirrored: boolean): readonly (readonly string[])[] => (mirrored ? MIRRORED : BLOCK);

/** Letters that this board bears where a US board has others; learned from the browser and from every key that is pressed. */
const letters = new Map<string, string>();

export const learnLetter = (code: string, key: string): boolean => {
  const cap = key.length === 1 && key.trim() !== "" ? key.toLocaleUpperCase() : "";
  if (
    cap === "" ||
    !/^(Key|Semicolon|Quote|Comma|Period|Slash|Bracket|Back|Minus|Equal|Intl)/.test(code) ||
    letters.get(code) === cap
  )
    return false;
  letters.set(code, cap);
  return true;
};

/** Ask the browser which letters lie where; not every browser says. */
export const learnLayout = async (): Promise<void> => {
  const board = (navigator as Navigator & { keyboard?: { getLayoutMap?: () => Promise<Map<string, string>> } })
    .keyboard;
  const map = await board?.getLayoutMap?.().catch(() => undefined);
  map?.forEach((key, code) => learnLetter(code, key));
};

/** A key's cap on this board. */
export const capOf = (code: string): string =>
  letters.get(code) ??
  {
    Semicolon: ";",
    Comma: ",",
    Period: ".",
    Slash: "/",
    Quote: "'",
    BracketLeft: "[",
    BracketRight: "]",
    Backslash: "\\",
    Minus: "-",
    Equal: "=",
    Backquote: "`",
    Space: "space",
    Enter: "↵",
    Delete: "del",
    Home: "home",
    End: "end",
    Escape: "esc",
    Insert: "ins",
    ArrowLeft: "←",
    ArrowRight: "→",
    ArrowUp: "↑",
    ArrowDown: "↓",
    Backspace: "back",
    PageDown: "pg↓",
    PageUp: "pg↑",
    NumpadAdd: "num +",
    NumpadSubtract: "num −",
    NumpadMultiply: "num ×",
    NumpadDecimal: "num .",
    Numpad0: "num 0",
  }[code] ??
  code.replace(/^(Key|Digit)/, "");

/** Where the hand seems to be: the position that holds the last places written, nearest to where it is now. */
export const guessPosition = (recent: readonly Place[], now: number): number => {
  const frets = recent.map((place) => place.fret).filter((fret) => fret > 0);
  if (frets.length === 0) return now;
  const low = Math.min(...frets);
  const high = Math.max(...frets);
  if (high - low > 3) return Math.max(1, (frets[frets.length - 1] ?? now) - 1);
  const lowest = Math.max(1, high - 3);
  return Math.min(Math.max(now, lowest), low);
};
