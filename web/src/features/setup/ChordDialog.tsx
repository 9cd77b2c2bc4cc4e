import { useState } from "react";
import { api, take } from "@/api/client";
import { useDocument } from "@/score/document";
import { tryRequest } from "@/score/sending";
import { InputDialog } from "@/ui/InputDialog";
import { Button, Field } from "@/ui/parts";

/** Another symbol for one chord: here, or every time that its bar is played. */
export function ChordDialog({ chordId, bar, onClose }: { chordId: string; bar: number; onClose: () => void }) {
  const chords = useDocument((state) => state.bench?.strip.chords ?? []);
  const same = chords.filter((chord) => chord.id === chordId);
  const here = same.find((chord) => chord.bar === bar) ?? same[0];
  const [symbol, setSymbol] = useState(here?.symbol ?? "");
  const [fault, setFault] = useState<string>();
  const save = async (where: number | null) => {
    const why = await tryRequest((solo_id) =>
      take(
        api.PUT("/api/solos/{solo_id}/chords/{chord_id}", {
          params: { path: { solo_id, chord_id: chordId } },
          body: { symbol, bar: where },
        }),
      ),
    );
    setFault(why ?? undefined);
    return why === null ? null : undefined;
  };
  const often = same.length > 1;
  return (
    <InputDialog
      title={`The chord at ${here?.where ?? ""}`}
      submit={often ? "Here" : "Change"}
      others={
        often && <Button onClick={() => void save(null).then((done) => done === null && onClose())}>Every time</Button>
      }
      onSubmit={() => save(often ? bar : null)}
      onClose={onClose}
    >
      <Field
        label="Symbol"
        required
        autoFocus
        value={symbol}
        onChange={(event) => setSymbol(event.target.value)}
        fault={fault}
        hint={often ? `This bar is played ${same.length} times.` : "The labels of its notes follow."}
      />
    </InputDialog>
  );
}
