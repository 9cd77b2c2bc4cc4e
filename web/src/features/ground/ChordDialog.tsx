import { useState } from "react";
import { api, take } from "@/api/client";
import { request, useBench } from "@/score/bench";
import { Button, Dialog, Field } from "@/ui/parts";

/** Another symbol for one chord, wherever its bar is played. */
export function ChordDialog({ chordId, onClose }: { chordId: string; onClose: () => void }) {
  const chords = useBench((state) => state.bench?.strip.chords ?? []);
  const trouble = useBench((state) => state.trouble);
  const same = chords.filter((chord) => chord.id === chordId);
  const [symbol, setSymbol] = useState(same[0]?.symbol ?? "");
  const save = async () => {
    const done = await request((solo_id) => take(api.PUT("/api/solos/{solo_id}/chords/{chord_id}", { params: { path: { solo_id, chord_id: chordId } }, body: { symbol } })));
    if (done) onClose();
  };
  return (
    <Dialog open onOpenChange={(open) => { if (!open) onClose(); }} title={`The chord at ${same[0]?.where ?? ""}`}>
      <form className="flex flex-col gap-4" onSubmit={(event) => { event.preventDefault(); void save(); }}>
        <Field label="Symbol" required autoFocus value={symbol} onChange={(event) => setSymbol(event.target.value)} fault={trouble ?? undefined}
          hint={same.length > 1 ? `This bar is played ${same.length} times; the chord changes every time.` : "The labels of its notes follow."} />
        <div className="flex justify-end gap-2"><Button quiet onClick={onClose}>Leave it</Button><Button strong type="submit">Change</Button></div>
      </form>
    </Dialog>
  );
}
