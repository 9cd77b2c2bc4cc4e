/** Which key does what, by its place on the board. None needs a modifier; all are buttons too, and can be bound anew. */
import type { Command, Commands } from "./commands";
import { blockRows, capOf, stringKeys } from "./hand";

export type OwnKeys = Readonly<Partial<Record<string, string>>>; // by command: keys that the reader has bound anew

/** How the keys lie for this reader. */
export type Keys = {
  readonly mirrored: boolean;
  readonly numbers: boolean;
  readonly own: OwnKeys;
  readonly off: boolean;
};

/** What the reader has set about keys; kept in the browser. */
export type KeySettings = {
  readonly mirrorHand: boolean;
  readonly numbers: boolean; // string-and-number entry in the place of the hand block
  readonly keysOff: boolean;
  readonly pedalArrows: boolean;
  readonly own: OwnKeys;
};
export const PRESET_KEYS: KeySettings = {
  mirrorHand: false,
  numbers: false,
  keysOff: false,
  pedalArrows: false,
  own: {},
};
/** Names under which earlier releases kept a key of the reader's own. */
const EARLIER: Readonly<Record<string, string>> = { shake: "vibrato", "let down": "release" };
const ofToday = (own: OwnKeys): OwnKeys =>
  Object.fromEntries(Object.entries(own).map(([name, code]) => [EARLIER[name] ?? name, code]));
export const keysOf = (set: KeySettings): Keys => ({
  mirrored: set.mirrorHand,
  numbers: set.numbers,
  own: ofToday(set.own),
  off: set.keysOff,
});

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
const FOR_DIGITS: Readonly<Record<string, string>> = { Digit7: "KeyQ", Digit8: "KeyW", Digit9: "KeyE", Digit0: "KeyR" };

const preset = (code: string, keys: Keys): string => {
  const forDigits = keys.numbers ? FOR_DIGITS[code] : undefined;
  if (forDigits !== undefined) return keys.mirrored ? (MIRROR[forDigits] ?? forDigits) : forDigits;
  if (!keys.mirrored) return code;
  return Object.entries(MIRROR).find(([, usual]) => usual === code)?.[0] ?? code;
};

/** The key of a command as it stands on the board now; empty when it has none of its own. */
export const codeOf = ({ name, key }: Command, keys: Keys): string =>
  key === undefined ? "" : (keys.own[name] ?? preset(key, keys));

const AS_WELL: Readonly<Record<string, string>> = { Backspace: "delete" };

/** What a key does on its own. */
export const commandOf = (commands: Commands, code: string, keys: Keys): Command | null =>
  Object.values(commands).find((command) => command.key !== undefined && codeOf(command, keys) === code) ??
  commands[AS_WELL[code] ?? ""] ??
  null;

/** What the key of a command does with shift: something near, or the same. It moves along when the key is bound anew. */
export const shifted = (commands: Commands, command: Command): Command =>
  Object.values(commands).find((one) => one.shift === command.name) ?? command;

/** What stands in for a command now: at an offer its key does something to that. */
export const inItsPlace = (commands: Commands, command: Command): Command =>
  Object.values(commands).find((one) => one.instead === command.name && one.inForce?.() === true) ?? command;

/** The caps that do a command now, shift before its key: its own, or those of the command that it stands in for. */
export const capIn = (commands: Commands, command: Command, keys: Keys): readonly string[] => {
  const named = command.instead === undefined ? command : (commands[command.instead] ?? command);
  const base = named.shift === undefined ? undefined : commands[named.shift];
  return base === undefined ? [capOf(codeOf(named, keys))] : ["⇧", capOf(codeOf(base, keys))];
};

const OF_THE_BROWSER = /^(Tab|(Shift|Control|Alt|Meta)(Left|Right)|F\d+)$/;
const OF_THE_PEDAL = ["PageDown", "PageUp"];

/** Bind a command to a key; another that had it takes the old key. A sentence when the key cannot be had. */
export const bound = (commands: Commands, command: Command, code: string, keys: Keys): OwnKeys | string => {
  if (OF_THE_BROWSER.test(code)) return "This key belongs to the browser.";
  if (OF_THE_PEDAL.includes(code)) return "Page keys belong to the pedal.";
  if (writes(code, keys)) return "This key writes notes: choose one beside the hand block.";
  const other = commandOf(commands, code, keys);
  const before = codeOf(command, keys);
  return {
    ...keys.own,
    ...(other !== null && other.name !== command.name ? { [other.name]: before } : {}),
    [command.name]: code,
  };
};

/** Whether a key writes notes or chooses strings. */
export const writes = (code: string, keys: Keys): boolean =>
  keys.numbers
    ? stringKeys(keys.mirrored).includes(code) || /^Digit\d$/.test(code)
    : blockRows(keys.mirrored).flat().includes(code);

/** What a page-turn pedal does, wherever the focus is: play or stop, and on to the next phrase. Arrows only when given. */
const PEDAL: Readonly<Record<string, string>> = { PageDown: "play", PageUp: "next phrase" };
const PEDAL_ARROWS: Readonly<Record<string, string>> = {
  ArrowRight: "play",
  ArrowLeft: "next phrase",
  ArrowDown: "loop",
  ArrowUp: "phrase before",
};
export const pedalCommand = (commands: Commands, code: string, arrows: boolean): Command | null =>
  commands[PEDAL[code] ?? (arrows ? (PEDAL_ARROWS[code] ?? "") : "")] ?? null;
