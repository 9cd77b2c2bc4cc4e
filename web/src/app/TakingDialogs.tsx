import { useEffect, useState } from "react";
import { api, take } from "@/api/client";
import { ExportDialog } from "@/features/exchange/ExportDialog";
import { ImportDialog } from "@/features/exchange/ImportDialog";
import { PictureDialog } from "@/features/exchange/PictureDialog";
import { spansOf } from "@/features/exchange/spans";
import { LoopPackDialog } from "@/features/teach/LoopPackDialog";
import type { PlanView } from "@/score/teaching";
import { openTaking, useShown } from "@/score/shown";

/** What is taken out of a solo, or put into it: the dialogs behind Export and Import. */
export function TakingDialogs({ soloId }: { soloId: string }) {
  const taking = useShown((state) => state.taking);
  const close = () => openTaking(null);
  useEffect(() => close, []);
  if (taking === null) return null;
  if (taking === "formats") return <ExportDialog soloId={soloId} onClose={close} />;
  if (taking === "picture") return <PictureDialog soloId={soloId} onClose={close} />;
  if (taking === "sound") return <SoundDialog soloId={soloId} onClose={close} />;
  return <ImportDialog file={taking} into={soloId} onClose={close} />;
}

function SoundDialog({ soloId, onClose }: { soloId: string; onClose: () => void }) {
  const [spans] = useState(spansOf);
  const [cautions, setCautions] = useState<PlanView["cautions"] | null>(null);
  useEffect(() => {
    void take(api.GET("/api/solos/{solo_id}/plan", { params: { path: { solo_id: soloId } } })).then((plan) =>
      setCautions(plan.cautions),
    );
  }, [soloId]);
  if (cautions === null) return null;
  return <LoopPackDialog soloId={soloId} spans={spans} cautions={cautions} onClose={onClose} />;
}
