import { BLOCK, capOf } from "@/score/hand";
import { Dialog, Key } from "@/ui/parts";
import { BINDINGS, codeOf } from "./keymap";

/** The keymap, shown with ?. The hand block is on the neck itself; here stands what lies beside it. */
export function KeysDialog({ open, onOpenChange, mirrored, onMirror }: { open: boolean; onOpenChange: (open: boolean) => void; mirrored: boolean; onMirror: (on: boolean) => void }) {
  return (
    <Dialog wide open={open} onOpenChange={onOpenChange} title="Keys">
      <p className="mb-3 text-ink-2">
        The block {BLOCK.map((row) => `${capOf(row[0] ?? "")}–${capOf(row[5] ?? "")}`).join(", ")} is the hand on the neck, standing up: columns are strings 6 to 1, rows are the
        first four frets of the position. The neck on the bench shows each key where it lies. Keys work while the strip has the focus; shift joins a note to the one before it, and with the
        arrows marks a span.
      </p>
      <ul className="grid grid-cols-1 gap-x-8 gap-y-1 sm:grid-cols-2">
        {BINDINGS.map((binding) => (
          <li key={binding.code} className="flex items-baseline gap-3"><span className="w-14 shrink-0 text-right"><Key>{capOf(mirrored ? codeOf(binding.deed, true) : binding.code)}</Key></span>{binding.says}</li>
        ))}
      </ul>
      <label className="mt-4 flex items-center gap-2 font-bold">
        <input type="checkbox" className="size-4" checked={mirrored} onChange={(event) => onMirror(event.target.checked)} />
        Block at the right of the board
      </label>
      <p className="mt-4 border-t border-rule pt-3 text-[14px] text-ink-2">
        Wide bends and long loops load fingers and wrists: warm up, rest often, stop when it hurts, and ask a doctor or a licensed therapist rather than a program. Keep the volume low.
      </p>
    </Dialog>
  );
}
