import { useEffect, useState } from "react";
import { api, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { InputDialog } from "@/ui/InputDialog";
import { Choose, Field } from "@/ui/parts";

const FORMS = ["12-bar", "minor 12-bar", "8-bar", "16-bar"] as const;
const CADENCES = ["V IV", "ii V"] as const;
const TURNAROUNDS = ["none", "I | V", "I VI | ii V"] as const;

/** A stock form in a key, shown as chart text before it is taken; and how a figure fits a form. */
export function FormDialog({
  tonic,
  onTake,
  onClose,
}: {
  tonic: string;
  onTake: (text: string) => void;
  onClose: () => void;
}) {
  const [wanted, setWanted] = useState({
    form: "12-bar",
    tonic,
    cadence: "V IV",
    turnaround: "none",
    choruses: "1",
    quick: false,
    sharp: false,
    two: false,
  });
  const [text, setText] = useState("");
  const [bars, setBars] = useState({ figure: "3", form: "12" });
  const [fits, setFits] = useState("");
  const minor = wanted.form === "minor 12-bar";
  useEffect(() => {
    const query = {
      form: wanted.form as (typeof FORMS)[number],
      key: `${wanted.tonic.trim()} ${minor ? "minor" : "major"}`,
      quick_change: wanted.quick,
      sharp_four: wanted.sharp,
      cadence: wanted.cadence as (typeof CADENCES)[number],
      turnaround: wanted.turnaround as (typeof TURNAROUNDS)[number],
      minor_two: wanted.two,
      choruses: Number(wanted.choruses) || 1,
    };
    return latest(
      take(api.GET("/api/forms", { params: { query } })),
      (found) => setText(found.text),
      (fault) => setText(sentence(fault)),
    );
  }, [wanted, minor]);
  useEffect(() => {
    const query = { figure: Number(bars.figure) || 0, form: Number(bars.form) || 0 };
    return latest(
      take(api.GET("/api/fit", { params: { query } })),
      (found) => setFits(found.sentence),
      (fault) => setFits(sentence(fault)),
    );
  }, [bars]);
  const ticked = (label: string, name: "quick" | "sharp" | "two") => (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        className="size-4 accent-[var(--ink)]"
        checked={wanted[name]}
        onChange={(event) => setWanted({ ...wanted, [name]: event.target.checked })}
      />
      {label}
    </label>
  );
  return (
    <InputDialog
      wide
      title="Stock forms"
      submit="Put it into the chart"
      onSubmit={() => {
        onTake(text);
        return Promise.resolve(null);
      }}
      onClose={onClose}
    >
      <div className="grid grid-cols-5 gap-3">
        <Choose
          label="Form"
          options={FORMS}
          value={wanted.form}
          onChoose={(value) => setWanted({ ...wanted, form: value })}
        />
        <Field
          label="Root"
          value={wanted.tonic}
          onChange={(event) => setWanted({ ...wanted, tonic: event.target.value })}
        />
        <Choose
          label="Bars 9 and 10"
          disabled={minor || wanted.form === "8-bar"}
          options={CADENCES}
          value={wanted.cadence}
          onChoose={(value) => setWanted({ ...wanted, cadence: value })}
        />
        <Choose
          label="Turnaround"
          disabled={minor || wanted.form === "8-bar"}
          options={TURNAROUNDS}
          value={wanted.turnaround}
          onChoose={(value) => setWanted({ ...wanted, turnaround: value })}
        />
        <Field
          label="Choruses"
          inputMode="numeric"
          value={wanted.choruses}
          onChange={(event) => setWanted({ ...wanted, choruses: event.target.value })}
        />
      </div>
      <div className="flex flex-wrap gap-5">
        {minor ? (
          ticked("half-diminished ii in bar 9", "two")
        ) : wanted.form === "8-bar" ? null : (
          <>
            {ticked("quick change in bar 2", "quick")}
            {ticked("♯IV diminished in bar 6", "sharp")}
          </>
        )}
      </div>
      <pre
        role="group"
        aria-label="Form as text"
        className="overflow-x-auto whitespace-pre-wrap rounded-[4px] border border-rule-2 bg-sheet p-3 text-[15px]"
      >
        {text}
      </pre>
      <div className="flex items-end gap-3 border-t border-rule pt-3">
        <div className="w-28">
          <Field
            label="Figure of bars"
            inputMode="numeric"
            value={bars.figure}
            onChange={(event) => setBars({ ...bars, figure: event.target.value })}
          />
        </div>
        <div className="w-28">
          <Field
            label="over a form of"
            inputMode="numeric"
            value={bars.form}
            onChange={(event) => setBars({ ...bars, form: event.target.value })}
          />
        </div>
        <p role="status" aria-label="Fit" className="pb-2">
          {fits}
        </p>
      </div>
    </InputDialog>
  );
}
