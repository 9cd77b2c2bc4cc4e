import { useNoteInHand } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { Sentence } from "./Panel";

/** For stages whose panel tells of something else: the note that keys would change, and what was done last. */
export function NoteLine() {
  const note = useNoteInHand();
  const view = useDocument((state) => state.views[note?.id ?? ""]);
  const last = useDocument((state) => state.bench?.history.undo);
  const says = note === null ? "No note is at the cursor." : (view?.says ?? "Written; its label is on the way.");
  return (
    <div className="flex items-baseline gap-4 border-b border-rule px-5 text-[15px] leading-7">
      <p role="status" aria-label="Sentence" className="min-w-0 truncate font-naming font-semibold" title={says}>
        <Sentence says={says} />
      </p>
      {last != null && (
        <p role="status" aria-label="What was done" className="ml-auto shrink-0 text-ink-2">
          last: {last}
        </p>
      )}
    </div>
  );
}
