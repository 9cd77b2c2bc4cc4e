import { memo } from "react";
import { type Axis, toPx } from "@/score/axis";
import { useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { type Lanes } from "@/score/layout";
import { stringY } from "@/score/neck";
import type { Note } from "@/score/types";
import type { View } from "@/score/view";

type Props = { view: View; axis: Axis; lanes: Lanes; from: number; to: number; onPick: (note: Note) => void };

/** The layer for people and tests: one element without text for every note in view, that says what the note is. */
export function NoteOptions({ view, axis, lanes, from, to, onPick }: Props) {
  const picked = useCursor((state) => state.picked);
  const grid = useDocument((state) => state.grid);
  const selection = useCursor((state) => state.selection);
  const marked = (note: Note) => selection !== null && note.tick >= selection.from && note.tick < selection.to;
  const inView = view.notes.flatMap((placed, i) =>
    placed.id === picked || (placed.x >= from - 40 && placed.x <= to) ? [{ placed, i }] : [],
  );
  return (
    <div role="listbox" aria-label="Notes" aria-orientation="horizontal" aria-multiselectable>
      {inView.map(({ placed: { note, view: label, x }, i }) => (
        <NoteOption
          key={note.id}
          note={note}
          says={label === undefined ? "A note without its label yet" : `${label.where}: ${label.says}`}
          picked={note.id === picked}
          marked={marked(note)}
          left={lanes.margin + (label === undefined ? toPx(axis, grid.second(note.tick)) : x) - 14}
          top={stringY(lanes.neck, note.string) - 14}
          of={view.notes.length}
          at={i + 1}
          onPick={onPick}
        />
      ))}
    </div>
  );
}

type OptionProps = {
  note: Note;
  says: string;
  picked: boolean;
  marked: boolean;
  left: number;
  top: number;
  of: number;
  at: number;
  onPick: (note: Note) => void;
};

/** Drawn again only when something about its note changes. */
const NoteOption = memo(function NoteOption({ note, says, picked, marked, left, top, of, at, onPick }: OptionProps) {
  return (
    <div
      role="option"
      aria-selected={picked || marked}
      aria-setsize={of}
      aria-posinset={at}
      aria-label={says}
      tabIndex={-1}
      data-tick={note.tick}
      data-string={note.string}
      onClick={() => onPick(note)}
      className={`absolute cursor-pointer ${picked ? "rounded-[5px] border-[2.5px] border-pick" : ""}`}
      style={{ left, top, width: 28, height: 28 }}
    />
  );
});
