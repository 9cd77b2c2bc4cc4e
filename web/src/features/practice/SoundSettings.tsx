import { useState } from "react";
import { COUNTS } from "@/score/teaching";
import { Choose, Field, Tick } from "@/ui/parts";
import { api, sentence, take } from "@/api/client";
import { practice, type Sound, usePractice } from "./practice";

const KEYS = Array.from({ length: 23 }, (_, i) => i - 11);
const keyWords = (steps: number): string =>
  steps === 0
    ? "as recorded"
    : `${Math.abs(steps)} half step${Math.abs(steps) > 1 ? "s" : ""} ${steps > 0 ? "up" : "down"}`;

/** What is heard, how loud, how it is counted, in which key, at any speed. */
export function SoundSettings() {
  const { sound, view, free } = usePractice();
  const [over, setOver] = useState(sound.over);
  const [fault, setFault] = useState<string>();
  /** A chord that cannot be read is said in its field, and what sounded goes on. */
  const playOver = async () => {
    const text = over.trim();
    setFault(undefined);
    if (text === sound.over) return;
    try {
      if (text !== "") await take(api.POST("/api/check/chord", { body: { text } }));
      practice.setSound({ over: text, ...(text !== "" && sound.vamp === 0 ? { vamp: 0.8 } : {}) });
    } catch (wrong) {
      setFault(sentence(wrong));
    }
  };
  if (view === null) return null;
  const level = (name: "recording" | "voice" | "vamp" | "volume", label: string, disabled = false) => (
    <label className="grid grid-cols-[11rem_minmax(0,1fr)_3rem] items-center gap-3">
      <span className="font-bold">{label}</span>
      <input
        type="range"
        min={0}
        max={1}
        step={0.1}
        disabled={disabled}
        value={sound[name]}
        className="h-11 accent-ink"
        onChange={(event) => practice.setSound({ [name]: Number(event.target.value) })}
      />
      <span className="text-right text-[15px] text-ink-2">
        {sound[name] === 0 ? "off" : `${Math.round(sound[name] * 100)} %`}
      </span>
    </label>
  );
  const tick = (name: "countIn" | "around", label: string) => (
    <Tick label={label} on={sound[name]} onTick={(on) => practice.setSound({ [name]: on })} />
  );
  const silent = Math.abs(sound.key) > view.recorded_key;
  return (
    <div className="grid grid-cols-2 gap-x-10 gap-y-4 max-lg:grid-cols-1">
      <div className="flex flex-col">
        {level("recording", "Recording", !view.recorded || silent)}
        {silent && sound.recording > 0 && view.recorded && (
          <p className="text-[15px] text-ink-2">
            The recording goes {view.recorded_key} half steps at most; in this key it is silent.
          </p>
        )}
        {level("voice", "The writing, played")}
        {level("vamp", "Vamp")}
        {level("volume", "Volume of all")}
        <p className="mt-1 text-[15px] text-ink-2">{view.cautions.ears}</p>
      </div>
      <div className="flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-3">
          <Choose
            label="Count"
            options={COUNTS}
            value={sound.count}
            onChoose={(count) => practice.setSound({ count: count as Sound["count"] })}
          />
          <Choose
            label="Key"
            options={KEYS.map((key) => ({ value: String(key), words: keyWords(key) }))}
            value={String(sound.key)}
            onChoose={(key) => practice.setSound({ key: Number(key) })}
          />
          <Choose
            label="Vamp plays"
            options={[
              { value: "", words: `as the chart: ${view.style}` },
              ...["straight", "shuffle", "swing", "6/8", "12/8"].map((one) => ({ value: one, words: one })),
            ]}
            value={sound.style}
            onChoose={(style) => practice.setSound({ style: style as Sound["style"] })}
          />
          <form
            onSubmit={(event) => {
              event.preventDefault();
              void playOver();
            }}
          >
            <Field
              label="Vamp over one chord"
              placeholder="the chart"
              value={over}
              onChange={(event) => setOver(event.target.value)}
              fault={fault}
              onBlur={() => void playOver()}
            />
          </form>
          <Field
            label="Another speed, %"
            type="number"
            min={25}
            max={125}
            placeholder="the stair’s"
            defaultValue={free === null ? "" : free / 10}
            onChange={(event) => {
              const speed = Math.round(Number(event.target.value) * 10);
              practice.setSpeed(speed >= 250 && speed <= 1_250 ? speed : null);
            }}
          />
        </div>
        {tick("countIn", "One bar counted before it starts")}
        {tick("around", "Half a bar before and after")}
      </div>
    </div>
  );
}
