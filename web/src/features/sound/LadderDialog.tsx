import { useState } from "react";
import { api, sentence, take } from "@/api/client";
import { InputDialog } from "@/ui/InputDialog";
import { Field } from "@/ui/parts";
import type { Ladder } from "@/score/playing";

/** From which speed to which a loop climbs, by what step, and when. */
export function LadderDialog({
  speed,
  onClose,
  onLay,
}: {
  speed: number;
  onClose: () => void;
  onLay: (ladder: Ladder) => void;
}) {
  const [from, setFrom] = useState(String(speed < 1_000 ? speed / 10 : 50));
  const [to, setTo] = useState("100");
  const [step, setStep] = useState("5");
  const [passes, setPasses] = useState("4");
  const [bySelf, setBySelf] = useState(true);
  const lay = async () => {
    const permille = (text: string) => Math.round(Number(text) * 10);
    try {
      const found = await take(
        api.GET("/api/ladder", {
          params: {
            query: { lowest: permille(from), highest: permille(to), step: permille(step), passes: Number(passes) },
          },
        }),
      );
      onLay({ rungs: found.rungs, passes: found.passes, bySelf });
      return null;
    } catch (fault) {
      return sentence(fault);
    }
  };
  const number = { type: "number", required: true } as const;
  return (
    <InputDialog title="A ladder of speeds" submit="Start the ladder" onSubmit={lay} onClose={onClose}>
      <div className="grid grid-cols-3 gap-3">
        <Field
          label="From %"
          {...number}
          min={25}
          max={125}
          autoFocus
          value={from}
          onChange={(event) => setFrom(event.target.value)}
        />
        <Field label="To %" {...number} min={25} max={125} value={to} onChange={(event) => setTo(event.target.value)} />
        <Field
          label="Step, %"
          {...number}
          min={1}
          max={50}
          value={step}
          onChange={(event) => setStep(event.target.value)}
        />
      </div>
      <Field
        label="Passes at each step"
        {...number}
        min={1}
        max={50}
        value={passes}
        onChange={(event) => setPasses(event.target.value)}
      />
      <label className="flex items-center gap-2 font-bold">
        <input
          type="checkbox"
          className="size-4"
          checked={bySelf}
          onChange={(event) => setBySelf(event.target.checked)}
        />
        Go up by itself after them
      </label>
      <p className="text-[14px] text-ink-2">
        The keys for slower and faster go a step down and up. Rest your hands between ladders.
      </p>
    </InputDialog>
  );
}
