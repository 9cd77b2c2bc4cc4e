import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";
import { type Command, perform } from "@/score/commands";
import { atHand, noteInHand, useCursor, useNoteInHand } from "@/score/cursor";
import { openDocument, useDocument } from "@/score/document";
import { hearAgainst, type HeardAgainst, heardAgainst } from "@/score/choices";
import { LEVELS, setLevel } from "@/score/loudness";
import { act } from "@/score/sending";
import { openMenu, useShown } from "@/score/shown";
import { type Group, shapeBy, TECHNIQUES } from "@/score/techniques";
import { NOTES } from "./commands";
import { shapeInHand } from "./writing";
import { menuGoesHome } from "@/ui/focus";

const GROUPS: readonly Group[] = ["how it begins", "where its pitch goes", "how it ends", "how it sounds", "the hands"];

/** It stays open, so that the next size or another technique can follow. */
function Item({ on = false, act, children }: { on?: boolean; act: () => void; children: ReactNode }) {
  return (
    <DropdownMenu.Item
      className="flex cursor-pointer items-center gap-2 px-2 py-[2px] text-[14px] leading-tight data-[highlighted]:bg-paper data-[highlighted]:outline-none"
      onSelect={(event) => {
        event.preventDefault();
        act();
      }}
    >
      <span className="w-3 font-bold">{on ? "✓" : ""}</span>
      {children}
    </DropdownMenu.Item>
  );
}

function Heading({ children }: { children: ReactNode }) {
  return <DropdownMenu.Label className="px-3 text-[13px] font-bold text-ink-2">{children}</DropdownMenu.Label>;
}

const does = (command: Command) => () => perform(command);

/** What concerns more than the note itself: its stack, and the loudness from here on. */
function StackAndLoudness() {
  const stacks = useDocument((state) => state.elements.stacks);
  const marked = useCursor((state) => state.selection !== null);
  const stack = stacks[useNoteInHand()?.stack ?? ""];
  const level = (to: (typeof LEVELS)[number]) => {
    const note = noteInHand();
    act(setLevel(openDocument().elements, note?.tick ?? atHand().cursor.tick, to, note?.id ?? null));
  };
  return (
    <DropdownMenu.Group className="pb-2">
      <Heading>the stack, and loudness here</Heading>
      {stack !== undefined && (
        <>
          <Item on={stack.stroke != null} act={does(NOTES.stroke)}>
            stroke {stack.stroke ?? "none"}
          </Item>
          <Item on={stack.spread_ms > 0} act={does(NOTES.spread)}>
            spread {stack.spread_ms} ms
          </Item>
          <Item act={does(NOTES.cut)}>cut</Item>
        </>
      )}
      <div className="flex px-3">
        {LEVELS.map((one) => (
          <DropdownMenu.Item
            key={one}
            aria-label={`loudness ${one}`}
            className="cursor-pointer px-2 font-bold italic data-[highlighted]:bg-paper data-[highlighted]:outline-none"
            onSelect={(event) => {
              event.preventDefault();
              level(one);
            }}
          >
            {one}
          </DropdownMenu.Item>
        ))}
      </div>
      {marked && (
        <>
          <Item act={does(NOTES.louder)}>swell louder over the span</Item>
          <Item act={does(NOTES.softer)}>swell softer over the span</Item>
        </>
      )}
    </DropdownMenu.Group>
  );
}

const AGAINST: readonly (readonly [HeardAgainst, string])[] = [
  ["found", "as it is found"],
  ["here", "the chord that sounds"],
  ["next", "the next chord"],
];

/** An anticipation that is overruled. */
function HeardOver() {
  const choices = useDocument((state) => state.elements.choices);
  const note = useNoteInHand();
  if (note === null) return null;
  const now = heardAgainst(choices, note);
  return (
    <DropdownMenu.Group className="pb-2">
      <Heading>heard against</Heading>
      {AGAINST.map(([to, words]) => (
        <Item key={to} on={now === to} act={() => act(hearAgainst(choices, note, to))}>
          {words}
        </Item>
      ))}
      <DropdownMenu.Item
        className="cursor-pointer px-2 py-[2px] pl-7 text-[14px] data-[highlighted]:bg-paper data-[highlighted]:outline-none"
        onSelect={does(NOTES["other changes"])}
      >
        other changes …
      </DropdownMenu.Item>
    </DropdownMenu.Group>
  );
}

/** Every technique, at the note: arrows and letters choose, enter does it, again goes on to its next size. It stays open until it is left. */
export function NoteMenu() {
  const open = useShown((state) => state.menu);
  const tables = useDocument((state) => state.bench?.tables);
  const note = useNoteInHand();
  if (!open || tables === undefined) return null;
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
          onCloseAutoFocus={menuGoesHome}
          className="z-50 grid max-h-[92vh] grid-cols-[repeat(5,max-content)] gap-x-1 overflow-auto border border-rule-2 bg-sheet py-2 max-sm:grid-cols-1"
        >
          {GROUPS.map((group) => (
            <div key={group} className="flex flex-col">
              <DropdownMenu.Group className="pb-2">
                <Heading>{group}</Heading>
                {TECHNIQUES.filter((one) => one.group === group).map((one) => (
                  <Item
                    key={one.name}
                    on={note !== null && one.on(note, tables)}
                    act={() => shapeInHand((of, known) => shapeBy(one.name, of, known))}
                  >
                    {one.name}
                  </Item>
                ))}
              </DropdownMenu.Group>
              {group === "how it ends" && <StackAndLoudness />}
              {group === "the hands" && <HeardOver />}
            </div>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
