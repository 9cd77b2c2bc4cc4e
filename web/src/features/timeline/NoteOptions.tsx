import { type Axis, toPx } from "@/score/axis";
import { useBench } from "@/score/bench";
import { type Lanes, MARGIN } from "@/score/layout";
import { stringY } from "@/score/neck";
import type { Note } from "@/score/types";
import type { View } from "@/score/view";

type Props = { view: View; axis: Axis; lanes: Lanes; from: number; to: number; onPick: (note: Note) => void };

/** The layer for people and tests: one element without text for every note in view, that says what the note is. */
export function NoteOptions({ view, axis, lanes, from, to, onPick }: Props) {
  const picked = useBench((state) => state.picked);
  const grid = useBench((state) => state.grid);
  const selection = useBench((state) => state.selection);
  const marked = (note: Note) => selection !== null && note.tick >= selection.from && note.tick < selection.to;
  return (
    <div role="listbox" aria-label="Notes" aria-orientation="horizontal" aria-multiselectable>
      {view.notes.map(({ note, mark, x }, i) =>
        note.id !== picked && (x < from - 40 || x > to) ? null : (
          <div
            key={note.id}
            role="option"
            aria-selected={note.id === picked || marked(note)}
            aria-setsize={view.notes.length}
            aria-posinset={i + 1}
            aria-label={mark === undefined ? "A note that waits for its label" : `${mark.where}: ${mark.says}`}
            tabIndex={-1}
            data-tick={note.tick}
            data-string={note.string}
            onClick={() => onPick(note)}
            className={`absolute cursor-pointer ${note.id === picked ? "rounded-[5px] border-[2.5px] border-pick" : ""}`}
            style={{ left: MARGIN + (mark === undefined ? toPx(axis, grid.second(note.tick)) : x) - 14, top: stringY(lanes.neck, note.string) - 14, width: 28, height: 28 }}
          />
        ),
      )}
    </div>
  );
}
