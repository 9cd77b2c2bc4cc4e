import { useState } from "react";
import { api, take } from "@/api/client";
import { useDocument } from "@/score/document";
import { useSaving } from "@/score/saving";
import { request } from "@/score/sending";
import { InputDialog } from "@/ui/InputDialog";
import { Button, Field } from "@/ui/parts";

/** Another symbol for one chord: here, or every time that its bar is played. */
export function ChordDialog({ chordId, bar, onClose }: { chordId: string; bar: number; onClose: () => void }) {
  const chords = useDocument((state) => state.bench?.strip.chords ?? []);
  const trouble = useSaving((state) => state.trouble);
  const same = chords.filter((chord) => chord.id === chordId);
  const here = same.find((chord) => chord.bar === bar) ?? same[0];
  const [symbol, setSymbol] = useState(here?.symbol ?? "");
  const save = async (where: number | null) => {
    const done = await request((solo_id) =>
      take(
        api.PUT("/api/solos/{solo_id}/chords/{chord_id}", {
          params: { path: { solo_id, chord_id: chordId } },
          body: { symbol, bar: where },
        }),
      ),
    );
    if (done) onClose();
  };
  const often = same.length > 1;
  return (
    <InputDialog
      title={`The chord at ${here?.where ?? ""}`}
      submit={often ? "Here" : "Change"}
      others={often && <Button onClick={() => void save(null)}>Every time</Button>}
      onSubmit={() => void save(often ? bar : null)}
      onClose={onClose}
    >
      <Field
        label="Symbol"
        required
        autoFocus
        value={symbol}
        onChange={(event) => setSymbol(event.target.value)}
        fault={trouble ?? undefined}
        hint={often ? `This bar is played ${same.length} times.` : "The labels of its notes follow."}
      />
    </InputDialog>
  );
}
