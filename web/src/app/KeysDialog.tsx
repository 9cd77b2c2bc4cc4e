import { type KeyboardEvent, useState } from "react";
import { ANALYSIS } from "@/features/analysis/commands";
import { CHECKING } from "@/features/checking/commands";
import { LISTENING } from "@/features/notes/listeningCommands";
import { PHRASES } from "@/features/phrases/commands";
import { TEACHING } from "@/features/teach/commands";
import type { Command } from "@/score/commands";
import { blockRows, capOf, stringKeys } from "@/score/hand";
import { bound, capIn, codeOf, keysOf } from "@/score/keymap";
import { setLook, useLook } from "@/score/look";
import { openKeys, useShown } from "@/score/shown";
import { Button, Dialog, Key } from "@/ui/parts";
import { COMMANDS } from "./commands";

const BOUND = Object.values(COMMANDS).filter((command) => command.key !== undefined);
const SHIFTED = Object.values(COMMANDS).flatMap((command) => {
  const of = COMMANDS[command.shift ?? ""];
  return of === undefined ? [] : [{ of, command }];
});
const INSTEAD = [
  ["While offers are shown in the tool “listen”", "Keys at offers", LISTENING],
  ["In Check, at the finding in hand", "Keys at findings", CHECKING],
  ["In Analysis, at the phrase in hand", "Keys at readings", ANALYSIS],
  ["In Phrases", "Keys at phrases", { ...PHRASES, ...TEACHING }],
] as const;

/** The keymap, shown with ?. The hand block is on the neck itself; here stands what lies beside it, and each key can be bound anew. */
export function KeysDialog() {
  const open = useShown((state) => state.keys);
  const look = useLook();
  const keys = keysOf(look);
  const [asked, setAsked] = useState<Command | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const press = (event: KeyboardEvent) => {
    if (asked === null) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.code === "Escape" && asked.name !== "escape") {
      setAsked(null);
      return;
    }
    const own = bound(COMMANDS, asked, event.code, keys);
    if (typeof own === "string") {
      setTrouble(own);
      return;
    }
    setLook({ own });
    setTrouble(null);
    setAsked(null);
  };
  const putBack = ({ name }: Command) => {
    setLook({ own: Object.fromEntries(Object.entries(look.own).filter(([own]) => own !== name)) });
  };
  const toggles = [
    ["Block at the right of the board", look.mirrorHand, { mirrorHand: !look.mirrorHand }],
    ["String and number instead of the block", look.numbers, { numbers: !look.numbers }],
    ["The pedal has the arrow keys, too", look.pedalArrows, { pedalArrows: !look.pedalArrows }],
    ["Keys do not write", look.keysOff, { keysOff: !look.keysOff }],
  ] as const;
  return (
    <Dialog
      wide
      open={open}
      onOpenChange={(next) => {
        setAsked(null);
        setTrouble(null);
        openKeys(next);
      }}
      title="Keys"
    >
      <p className="mb-3 text-ink-2">
        {look.numbers
          ? `${stringKeys(look.mirrorHand).map(capOf).join(" ")} choose strings 6 to 1, digits write the fret; a second digit joins while the cursor has not moved.`
          : `The block ${blockRows(look.mirrorHand)
              .map((row) => `${capOf(row[0] ?? "")}–${capOf(row[5] ?? "")}`)
              .join(
                ", ",
              )} is the hand on the neck, standing up: columns are strings 6 to 1, rows are the first four frets of the position. The neck at the right shows each key where it lies.`}{" "}
        Keys work while the strip has the focus; shift joins a note to the one before it, and with the arrows to the
        left and right marks a span. A page-turn pedal plays and stops with <Key>{capOf("PageDown")}</Key> and goes on
        to the next phrase with <Key>{capOf("PageUp")}</Key>, wherever the focus is. Ctrl or Cmd with Z undoes, with Y
        it redoes.
      </p>
      <div className="mb-3 flex flex-wrap gap-x-6 gap-y-1">
        {toggles.map(([name, on, change]) => (
          <label key={name} className="flex items-center gap-2 font-bold">
            <input
              type="checkbox"
              className="size-4"
              checked={on}
              onChange={() => {
                setLook(change);
              }}
            />
            {name}
          </label>
        ))}
      </div>
      <p role="status" className={`mb-2 min-h-6 ${trouble === null ? "text-ink-2" : "font-bold text-doubt"}`}>
        {trouble ??
          (asked === null
            ? "Press a key here to change it."
            : `Now press the key for “${asked.says}”; ${capOf("Escape")} leaves it.`)}
      </p>
      <ul className="grid grid-cols-1 gap-x-8 gap-y-1 sm:grid-cols-2" onKeyDownCapture={press}>
        {BOUND.map((command) => (
          <li key={command.name} className="flex items-baseline gap-3">
            <button
              type="button"
              aria-label={`Key for ${command.says}: ${capOf(codeOf(command, keys))}`}
              aria-pressed={asked === command}
              className={`w-16 shrink-0 rounded-[4px] text-right ${asked === command ? "bg-pick" : "hover:bg-sheet"}`}
              onClick={() => {
                setTrouble(null);
                setAsked(command);
              }}
            >
              <Key>{asked === command ? "…" : capOf(codeOf(command, keys))}</Key>
            </button>
            <span>{command.says}</span>
            {look.own[command.name] !== undefined && (
              <button
                type="button"
                className="text-[13px] underline underline-offset-2"
                onClick={() => {
                  putBack(command);
                }}
              >
                reset
              </button>
            )}
          </li>
        ))}
        {SHIFTED.map(({ of, command }) => (
          <li key={`shift ${command.name}`} className="flex items-baseline gap-3">
            <span className="w-16 shrink-0 text-right text-[13px] text-ink-2">
              ⇧ <Key>{capOf(codeOf(of, keys))}</Key>
            </span>
            <span>{command.says}</span>
          </li>
        ))}
      </ul>
      {INSTEAD.map(([heading, label, commands]) => (
        <section key={label}>
          <h3 className="mb-1 mt-3 font-bold">{heading}</h3>
          <ul className="grid grid-cols-1 gap-x-8 gap-y-1 sm:grid-cols-2" aria-label={label}>
            {Object.values<Command>(commands)
              .filter((command) => command.instead !== undefined)
              .map((command) => (
                <li key={command.name} className="flex items-baseline gap-3">
                  <span className="w-16 shrink-0 text-right text-[13px] text-ink-2">
                    {capIn(COMMANDS, command, keys).map((cap) =>
                      cap === "⇧" ? `${cap} ` : <Key key={cap}>{cap}</Key>,
                    )}
                  </span>
                  <span>{command.says}</span>
                </li>
              ))}
          </ul>
        </section>
      ))}
      {Object.keys(look.own).length > 0 && (
        <Button
          className="mt-3"
          onClick={() => {
            setLook({ own: {} });
          }}
        >
          Reset all keys
        </Button>
      )}
      <p className="mt-4 border-t border-rule pt-3 text-[14px] text-ink-2">
        Wide bends and long loops load fingers and wrists: warm up, rest often, stop when it hurts, and ask a doctor or
        a licensed therapist rather than a program. Keep the volume low.
      </p>
    </Dialog>
  );
}
