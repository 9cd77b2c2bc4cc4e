import { useState } from "react";
import type { PlanView } from "@/score/teaching";
import { InputDialog } from "@/ui/InputDialog";
import { Field } from "@/ui/parts";
import { setPlan } from "./plan";

/** The speeds of every line that has none of its own. */
export function PlanDialog({ settings, onClose }: { settings: PlanView["settings"]; onClose: () => void }) {
  const [values, setValues] = useState({
    start: String(settings.start / 10),
    goal: String(settings.goal / 10),
    step: String(settings.step / 10),
    passes: String(settings.passes),
  });
  const field = (name: keyof typeof values, label: string, min: number, max: number) => (
    <Field
      label={label}
      type="number"
      required
      min={min}
      max={max}
      autoFocus={name === "start"}
      value={values[name]}
      onChange={(event) => setValues({ ...values, [name]: event.target.value })}
    />
  );
  const submit = () => {
    const permille = (text: string) => Math.round(Number(text) * 10);
    const body = {
      start: permille(values.start),
      goal: permille(values.goal),
      step: permille(values.step),
      passes: Number(values.passes),
    };
    return setPlan(body);
  };
  return (
    <InputDialog title="Speeds of the plan" submit="Keep" onSubmit={submit} onClose={onClose}>
      <p className="text-[15px] text-ink-2">
        In per cent of the recorded tempo. They hold for every line that has no speeds of its own.
      </p>
      <div className="grid grid-cols-4 gap-3">
        {field("start", "Start %", 25, 125)}
        {field("goal", "Goal %", 25, 125)}
        {field("step", "Step %", 1, 50)}
        {field("passes", "Passes", 1, 50)}
      </div>
    </InputDialog>
  );
}
