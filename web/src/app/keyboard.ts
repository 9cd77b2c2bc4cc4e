/** From keys to commands: the strip's keys, those that work anywhere, and the pedal. */
import { type KeyboardEvent as ReactKey, useCallback, useEffect } from "react";
import { chooseString, endDigits, writeAt, writeDigit } from "@/features/notes/writing";
import { type Command, NO_FIELD, perform } from "@/score/commands";
import { entryNow, handNow } from "@/score/entry";
import { learnLetter, placeOf, stringAtKey } from "@/score/hand";
import { codeOf, commandOf, inItsPlace, type Keys, pedalCommand, shifted } from "@/score/keymap";
import { hint } from "@/score/saving";
import { inTurn, redo, undo } from "@/score/sending";
import { awaitWords, shownNow } from "@/score/shown";
import { isTyped, keepKeysHome, takesKeys } from "@/ui/focus";
import { COMMANDS } from "./commands";

const TYPED_INTO = "input, textarea, [role=combobox], [data-choosing], [role=dialog], [role=menu]";
/** What is switched by Space alone, for who goes through the page by Tab. */
const SWITCHED = "input, [role=radio], [role=tab], [role=combobox], [aria-haspopup]";
const into = (event: Event, selector: string): boolean => (event.target as HTMLElement).closest(selector) !== null;
const withModifier = (event: Pick<KeyboardEvent, "ctrlKey" | "metaKey" | "altKey">): boolean =>
  event.ctrlKey || event.metaKey || event.altKey;

/** Ctrl or Cmd with Z, shift Z and Y, as hands do it everywhere. */
const habit = ({ ctrlKey, metaKey, altKey, shiftKey, key }: KeyboardEvent): typeof undo | null => {
  if (altKey || !(ctrlKey || metaKey)) return null;
  const letter = key.toLowerCase();
  return letter === "y" ? redo : letter === "z" ? (shiftKey ? redo : undo) : null;
};

/** What a key writes: a note of the hand block, or a string or a digit in string-and-number entry. */
const writing = ({ code, shiftKey, repeat }: KeyboardEvent, keys: Keys): (() => void) | null => {
  if (!keys.numbers) {
    const place = placeOf(handNow(keys.mirrored), code, entryNow().latches);
    return place === null ? null : () => repeat || inTurn(() => writeAt(place, shiftKey));
  }
  if (repeat) return null;
  const string = stringAtKey(handNow(keys.mirrored), code);
  if (string !== null) return () => inTurn(() => chooseString(string));
  return /^Digit\d$/.test(code) ? () => inTurn(() => writeDigit(Number(code.slice(5)), shiftKey)) : null;
};

/** With `Keys do not write` only the player, the way out and the cursor are left. */
const allowed = ({ code, shiftKey }: KeyboardEvent, keys: Keys): boolean =>
  !keys.off || ["Space", "Escape"].includes(code) || (code.startsWith("Arrow") && !(shiftKey && /Up|Down/.test(code)));

/** In Setup nothing tells what a key would write. */
const NOT_HERE = "Keys write notes in Notes and in the stages after it, not in Setup.";

const onStrip = (event: KeyboardEvent, keys: Keys): boolean => {
  if (shownNow().words) {
    if (event.key === "Escape") awaitWords(false);
    else if (event.key.length === 1) hint(NO_FIELD);
    return event.key === "Escape" || event.key.length === 1;
  }
  if (event.key === "?") {
    perform(COMMANDS["keys"] as Command);
    return true;
  }
  learnLetter(event.code, event.shiftKey ? "" : event.key);
  if (!allowed(event, keys)) return false;
  const write = writing(event, keys);
  if (write !== null) {
    if (shownNow().stage === "ground") {
      hint(NOT_HERE);
      return true;
    }
    if (!keys.numbers) endDigits();
    write();
    return true;
  }
  const own = commandOf(COMMANDS, event.code, keys);
  if (own === null) return false;
  endDigits();
  const command = inItsPlace(COMMANDS, event.shiftKey ? shifted(COMMANDS, own) : own);
  if (event.repeat && command.repeats !== true) return true;
  if (command.writes === true && shownNow().stage === "ground") {
    hint(NOT_HERE);
    return true;
  }
  if (!event.shiftKey) own.held?.(true);
  perform(command);
  return true;
};

/** Keys on the strip; with it the pedal, wherever the focus is but for text and dialogs, and undo by habit. */
export const useKeyboard = (keys: Keys, pedalArrows: boolean): ((event: ReactKey) => void) => {
  useEffect(() => {
    const pedal = (event: KeyboardEvent) => {
      if (event.repeat || event.shiftKey || withModifier(event) || into(event, `${TYPED_INTO}, [role=radiogroup]`))
        return;
      const command = pedalCommand(COMMANDS, event.code, pedalArrows);
      if (command === null) return;
      event.preventDefault();
      event.stopPropagation();
      perform(command);
    };
    window.addEventListener("keydown", pedal, true);
    return () => window.removeEventListener("keydown", pedal, true);
  }, [pedalArrows]);

  useEffect(() => keepKeysHome(), []);

  useEffect(() => {
    // A field that opens, or a click, is what was waited for.
    const there = (event: Event) => {
      if (shownNow().words && (event.type === "pointerdown" || isTyped(event.target))) awaitWords(false);
    };
    // Space plays wherever no text is typed; on a button that has the focus it would press that again.
    const space = (event: KeyboardEvent) => {
      if (event.code !== "Space" || withModifier(event) || event.shiftKey || !into(event, "button, a, summary")) return;
      if (into(event, `${TYPED_INTO}, ${SWITCHED}`) || takesKeys(event.target)) return;
      event.preventDefault();
      if (event.type !== "keydown" || event.repeat) return;
      event.stopPropagation();
      const play = COMMANDS["play"];
      if (play !== undefined) perform(play);
    };
    window.addEventListener("focusin", there);
    window.addEventListener("pointerdown", there);
    window.addEventListener("keydown", space, true);
    window.addEventListener("keyup", space, true);
    return () => {
      window.removeEventListener("focusin", there);
      window.removeEventListener("pointerdown", there);
      window.removeEventListener("keydown", space, true);
      window.removeEventListener("keyup", space, true);
    };
  }, []);

  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const which = habit(event);
      if (which === null || into(event, TYPED_INTO)) return;
      event.preventDefault();
      void which();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);

  useEffect(() => {
    const letGo = (event: Event) => {
      for (const command of Object.values(COMMANDS))
        if (!(event instanceof KeyboardEvent) || event.code === codeOf(command, keys)) command.held?.(false);
    };
    window.addEventListener("keyup", letGo);
    window.addEventListener("blur", letGo);
    return () => {
      window.removeEventListener("keyup", letGo);
      window.removeEventListener("blur", letGo);
    };
  }, [keys]);

  return useCallback(
    (event: ReactKey) => {
      if (withModifier(event) || event.nativeEvent.isComposing) return;
      const target = event.target as HTMLElement;
      if (target !== event.currentTarget && target.getAttribute("role") !== "option") return;
      if (onStrip(event.nativeEvent, keys)) event.preventDefault();
    },
    [keys],
  );
};
