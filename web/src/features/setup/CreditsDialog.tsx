import { useState } from "react";
import { api, type Schemas, take } from "@/api/client";
import { useDocument } from "@/score/document";
import { tryRequest } from "@/score/sending";
import { InputDialog } from "@/ui/InputDialog";
import { Button, Choose, Field } from "@/ui/parts";

type Credit = Schemas["Credit"];
const SURE: readonly (readonly [number, string])[] = [
  [1, "sure"],
  [0.7, "likely"],
  [0.4, "a guess"],
];
const NOBODY: Credit = { who: "", part: "lead guitar", according_to: "", sure: 0.7, picked: false };

/** Claims side by side until one is picked, and the rig in rows of the teacher's own. */
export function CreditsDialog({ onClose }: { onClose: () => void }) {
  const settings = useDocument((state) => state.bench?.solo.settings);
  const [credits, setCredits] = useState<readonly Credit[]>(settings?.credits ?? []);
  const [rig, setRig] = useState<readonly Schemas["RigRow"][]>(settings?.rig ?? []);
  const claim = (at: number, part: Partial<Credit>) =>
    setCredits(credits.map((one, i) => (i === at ? { ...one, ...part } : one)));
  const row = (at: number, part: Partial<Schemas["RigRow"]>) =>
    setRig(rig.map((one, i) => (i === at ? { ...one, ...part } : one)));
  // Of one part one claim is picked at most; the others stay on record.
  const pick = (at: number, on: boolean) =>
    setCredits(
      credits.map((one, i) =>
        i === at ? { ...one, picked: on } : one.part === credits[at]?.part ? { ...one, picked: false } : one,
      ),
    );
  const save = () => {
    const body = {
      ends_continuing: false,
      credits: credits.filter((one) => one.who.trim() !== ""),
      rig: rig.filter((one) => one.name.trim() !== "" || one.value.trim() !== ""),
    };
    return tryRequest((solo_id) =>
      take(api.PUT("/api/solos/{solo_id}/sleeve", { params: { path: { solo_id } }, body })),
    );
  };
  return (
    <InputDialog wide title="Credits and rig" submit="Save" onSubmit={save} onClose={onClose}>
      <section aria-label="Credits" className="flex flex-col gap-2">
        {credits.length === 0 && (
          <p className="text-ink-2">
            Nobody is credited yet. Add a claim for each source; where they contradict each other, pick one when you are
            sure.
          </p>
        )}
        {credits.map((one, at) => (
          <div
            key={at}
            role="group"
            aria-label={`Claim ${at + 1}`}
            className="grid grid-cols-[1.2fr_1fr_1.4fr_7rem_auto_auto] items-end gap-2"
          >
            <Field label="Who" value={one.who} onChange={(event) => claim(at, { who: event.target.value })} />
            <Field label="plays" value={one.part} onChange={(event) => claim(at, { part: event.target.value })} />
            <Field
              label="according to"
              value={one.according_to}
              onChange={(event) => claim(at, { according_to: event.target.value })}
            />
            <Choose
              label="how sure"
              options={SURE.map(([, word]) => word)}
              value={
                SURE.reduce((near, option) =>
                  Math.abs(option[0] - one.sure) < Math.abs(near[0] - one.sure) ? option : near,
                )[1]
              }
              onChoose={(value) => claim(at, { sure: SURE.find(([, word]) => word === value)?.[0] ?? 1 })}
            />
            <label className="flex items-center gap-1 pb-2 font-bold">
              <input
                type="checkbox"
                className="size-4 accent-[var(--ink)]"
                checked={one.picked}
                onChange={(event) => pick(at, event.target.checked)}
              />
              picked
            </label>
            <Button
              quiet
              aria-label={`Delete claim ${at + 1}`}
              onClick={() => setCredits(credits.filter((_, i) => i !== at))}
            >
              drop
            </Button>
          </div>
        ))}
        <div>
          <Button onClick={() => setCredits([...credits, NOBODY])}>Add a claim</Button>
        </div>
      </section>
      <section aria-label="Rig" className="flex flex-col gap-2 border-t border-rule pt-3">
        {rig.length === 0 && (
          <p className="text-ink-2">
            What the sound is made with: instrument, pick-up, amplifier, effects, slide, in rows of your own.
          </p>
        )}
        {rig.map((one, at) => (
          <div
            key={at}
            role="group"
            aria-label={`Rig row ${at + 1}`}
            className="grid grid-cols-[1fr_2fr_auto] items-end gap-2"
          >
            <Field label="What" value={one.name} onChange={(event) => row(at, { name: event.target.value })} />
            <Field
              label="how it is set"
              value={one.value}
              onChange={(event) => row(at, { value: event.target.value })}
            />
            <Button
              quiet
              aria-label={`Delete rig row ${at + 1}`}
              onClick={() => setRig(rig.filter((_, i) => i !== at))}
            >
              drop
            </Button>
          </div>
        ))}
        <div>
          <Button onClick={() => setRig([...rig, { name: "", value: "" }])}>Add a row</Button>
        </div>
      </section>
    </InputDialog>
  );
}
