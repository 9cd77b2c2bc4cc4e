import { DropdownMenu } from "radix-ui";
import { noteAtCursor, openMenu, pickedNote, useBench } from "@/score/bench";
import { act } from "@/score/sending";
import { cut, type Group, shapeBy, spread, stroke, TECHNIQUES } from "@/score/techniques";
import { inOrder } from "@/score/edits";
import { LEVELS, setLevel, swell } from "@/score/loudness";
import { shapeInHand } from "./shaping";

const GROUPS: readonly Group[] = ["how it begins", "where its pitch goes", "how it ends", "how it sounds", "the hands"];

/** Every technique, at the note: arrows and letters choose, enter does it, again goes on to its next size. It stays open until it is left. */
export function NoteMenu() {
  const open = useBench((state) => state.menu);
  const state = useBench();
  const note = pickedNote(state) ?? noteAtCursor(state);
  const tables = state.bench?.tables;
  if (!open || tables === undefined) return null;
  const stack = note?.stack == null ? undefined : state.elements.stacks[note.stack];
  const item =
    "flex cursor-pointer items-center gap-2 px-2 py-[2px] text-[14px] leading-tight data-[highlighted]:bg-paper data-[highlighted]:outline-none";
  const tick = (on: boolean) => <span className="w-3 font-bold">{on ? "✓" : ""}</span>;
  const others = (
    <DropdownMenu.Group className="pb-2">
      <DropdownMenu.Label className="px-3 text-[13px] font-bold text-ink-2">
        the stack, and loudness here
      </DropdownMenu.Label>
      {stack !== undefined && note !== null && (
        <>
          <DropdownMenu.Item
            className={item}
            onSelect={(event) => {
              event.preventDefault();
              act(stroke(stack, note.id));
            }}
          >
            {tick(stack.stroke != null)}stroke {stack.stroke ?? "none"}
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={item}
            onSelect={(event) => {
              event.preventDefault();
              act(spread(stack, note.id));
            }}
          >
            {tick(stack.spread_ms > 0)}spread {stack.spread_ms} ms
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={item}
            onSelect={(event) => {
              event.preventDefault();
              act(
                cut(
                  inOrder(state.elements.notes).filter((one) => one.stack === stack.id),
                  note.id,
                ),
              );
            }}
          >
            {tick(false)}cut
          </DropdownMenu.Item>
        </>
      )}
      <div className="flex px-3">
        {LEVELS.map((level) => (
          <DropdownMenu.Item
            key={level}
            aria-label={`loudness ${level}`}
            className="cursor-pointer px-2 font-bold italic data-[highlighted]:bg-paper data-[highlighted]:outline-none"
            onSelect={(event) => {
              event.preventDefault();
              act(setLevel(state.elements, note?.tick ?? state.cursor.tick, level, note?.id ?? null));
            }}
          >
            {level}
          </DropdownMenu.Item>
        ))}
      </div>
      {state.selection !== null &&
        (["louder", "softer"] as const).map((to) => (
          <DropdownMenu.Item
            key={to}
            className={item}
            onSelect={(event) => {
              event.preventDefault();
              if (state.selection !== null) act(swell(state.elements, state.selection, to, note?.id ?? null));
            }}
          >
            {tick(false)}swell {to} over the span
          </DropdownMenu.Item>
        ))}
    </DropdownMenu.Group>
  );
  return (
    <DropdownMenu.Root
      open
      modal={false}
      onOpenChange={(next) => {
        if (!next) openMenu(false);
      }}
    >
      <DropdownMenu.Trigger asChild>
        <span aria-hidden className="block size-0" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          aria-label="Every technique"
          side="top"
          align="start"
          sideOffset={20}
          collisionPadding={12}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            document.querySelector<HTMLElement>("[aria-label=Strip]")?.focus();
          }}
          className="z-50 grid max-h-[92vh] grid-cols-[repeat(5,max-content)] gap-x-1 overflow-auto border border-rule-2 bg-sheet py-2 max-sm:grid-cols-1"
        >
          {GROUPS.map((group) => (
            <div key={group} className="flex flex-col">
              <DropdownMenu.Group className="pb-2">
                <DropdownMenu.Label className="px-3 text-[13px] font-bold text-ink-2">{group}</DropdownMenu.Label>
                {TECHNIQUES.filter((one) => one.group === group).map((one) => (
                  <DropdownMenu.Item
                    key={one.name}
                    className={item}
                    onSelect={(event) => {
                      event.preventDefault();
                      shapeInHand((of, known) => shapeBy(one.name, of, known));
                    }}
                  >
                    {tick(note !== null && one.on(note, tables))}
                    {one.name}
                  </DropdownMenu.Item>
                ))}
              </DropdownMenu.Group>
              {group === "how it ends" && others}
            </div>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
