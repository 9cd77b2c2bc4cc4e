import { useState } from "react";
import { openDocument } from "@/score/document";
import type { PlanLine } from "@/score/teaching";
import { useDraft } from "@/ui/drafts";
import { InputDialog } from "@/ui/InputDialog";
import { Choose, Field } from "@/ui/parts";
import { changeLine, type LineChange } from "./plan";

const permille = (text: string): number | null => (text.trim() === "" ? null : Math.round(Number(text) * 10));
const number = { type: "number", required: true } as const;

/** The name, the stair and the difficulty of a line, over what the plan gives. */
export function LineDialog({ line, onClose }: { line: PlanLine; onClose: () => void }) {
  const first = line.steps[0]?.percent ?? "50";
  const last = line.steps[line.steps.length - 1]?.percent ?? "100";
  const draft = useDraft(`line ${openDocument().bench?.solo_id ?? ""} ${line.key}`, { name: "" });
  const { name } = draft.value;
  const [start, setStart] = useState(first);
  const [goal, setGoal] = useState(last);
  const [step, setStep] = useState(String(line.step / 10));
  const [passes, setPasses] = useState(String(line.passes));
  const [level, setLevel] = useState(line.level === line.computed ? "" : String(line.level));
  const submit = () => {
    // Only what was changed is the teacher's own; the rest goes on following the plan.
    const change: LineChange = {};
    if (name.trim() !== "") change.name = name.trim();
    if (start !== first) change.start = permille(start);
    if (goal !== last) change.goal = permille(goal);
    if (step !== String(line.step / 10)) change.step = permille(step);
    if (passes !== String(line.passes)) change.passes = Number(passes);
    change.level = level === "" ? null : Number(level);
    return changeLine(line.what, change);
  };
  const [trouble, setTrouble] = useState<string | null>(null);
  const back = async () => {
    const plain = { start: null, goal: null, step: null, passes: null, level: null, name: "" };
    const why = await changeLine(line.what, plain);
    setTrouble(why);
    if (why === null) onClose();
  };
  return (
    <InputDialog
      title={line.name}
      submit="Keep"
      trouble={trouble}
      draft={draft}
      onSubmit={submit}
      onClose={onClose}
      others={
        line.own && (
          <button type="button" className="mr-auto px-2 underline underline-offset-2" onClick={() => void back()}>
            As the plan has it
          </button>
        )
      }
    >
      <Field
        label="Name"
        placeholder={line.name}
        maxLength={120}
        value={name}
        onChange={(event) => draft.set({ name: event.target.value })}
      />
      <div className="grid grid-cols-4 gap-3">
        <Field
          label="Start %"
          {...number}
          min={25}
          max={125}
          autoFocus
          value={start}
          onChange={(event) => setStart(event.target.value)}
        />
        <Field
          label="Goal %"
          {...number}
          min={25}
          max={125}
          value={goal}
          onChange={(event) => setGoal(event.target.value)}
        />
        <Field
          label="Step %"
          {...number}
          min={1}
          max={50}
          value={step}
          onChange={(event) => setStep(event.target.value)}
        />
        <Field
          label="Passes"
          {...number}
          min={1}
          max={50}
          value={passes}
          onChange={(event) => setPasses(event.target.value)}
        />
      </div>
      <Choose
        label="Difficulty"
        options={[
          { value: "", words: `as worked out: ${line.computed} of 5` },
          ...[1, 2, 3, 4, 5].map((one) => ({ value: String(one), words: `${one} of 5, as I say` })),
        ]}
        value={level}
        onChoose={setLevel}
      />
      <p className="text-[14px] text-ink-2">{line.says}</p>
    </InputDialog>
  );
}
