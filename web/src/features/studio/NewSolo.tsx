import { useEffect, useMemo, useRef, useState } from "react";
import { api, bring, Refusal, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { Area, Button, Choose, Dialog, Field } from "@/ui/parts";
import { BarOne } from "./BarOne";
import { FirstLook, type Taken } from "./FirstLook";

type Props = { file: File | null; onClose: () => void; onStarted: (id: string) => void };

const OTHER = "another, typed";
const FEELS = ["straight", "swing", "triplet"] as const;
const LETTERS = [
  { value: "", words: "none" },
  "C",
  "C#",
  "Db",
  "D",
  "Eb",
  "E",
  "F",
  "F#",
  "Gb",
  "G",
  "Ab",
  "A",
  "Bb",
  "B",
] as const;

/** What stands in the fields that most people leave as they are. */
const rareWords = ({
  tuning,
  typed,
  capo,
  first,
  last,
}: Record<"tuning" | "typed" | "capo" | "first" | "last", string>) =>
  [
    tuning === OTHER ? typed : tuning,
    capo === "0" || capo === "" ? "no capo" : `capo ${capo}`,
    last === "" ? (first === "1" ? "all bars" : `from bar ${first} on`) : `bars ${first} to ${last}`,
  ].join(", ");

/** Add a recording, or a tempo and a form alone, and settle what stands before the first note. */
export function NewSolo({ file, onClose, onStarted }: Props) {
  const [brought, setBrought] = useState<Schemas["Brought"] | null>(null);
  const [offers, setOffers] = useState<Schemas["Offers"] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [faults, setFaults] = useState<Schemas["FaultDetail"][]>([]);
  const [busy, setBusy] = useState(file !== null);
  const [id] = useState(() => crypto.randomUUID());
  const [typed, setTyped] = useState(false); // something was typed or chosen that is nowhere else
  const [leaving, setLeaving] = useState(false); // it is asked whether that may go
  const [went, setWent] = useState(0);
  const [form, setForm] = useState({
    tune: file === null ? "" : file.name.replace(/\.[^.]+$/, ""),
    title: "",
    player: "",
    tempo: "120",
    meter: "4/4",
    tuning: "standard",
    typed: "",
    capo: "0",
    tonic: "",
    mode: "major",
    feel: "straight",
    ratio: "2",
    first: "1",
    last: "",
    chart: "",
  });
  const [barOneS, setBarOneS] = useState(0);
  const [beats, setBeats] = useState<{ readonly tempo: string; readonly at: readonly number[] } | null>(null);
  const [cents, setCents] = useState<number | null>(null);
  /** What was heard goes into the fields; what is typed afterwards stands. */
  const takeOver = (taken: Taken) => {
    const { tempo, ratio, chart } = taken;
    if (taken.barOneS !== undefined) setBarOneS(taken.barOneS);
    if (taken.cents !== undefined) setCents(taken.cents);
    if (tempo !== undefined && taken.beats !== undefined) setBeats({ tempo: String(tempo), at: taken.beats });
    setForm((now) => ({
      ...now,
      ...(tempo === undefined ? {} : { tempo: String(tempo) }),
      ...(ratio === undefined ? {} : ratio === null ? { feel: "straight" } : { feel: "swing", ratio: String(ratio) }),
      ...(chart === undefined ? {} : { chart }),
    }));
  };
  const choose = (name: keyof typeof form) => (value: string) => {
    setTyped(true);
    setForm((now) => ({ ...now, [name]: value }));
  };
  const set = (name: keyof typeof form) => (event: { target: { value: string } }) => choose(name)(event.target.value);
  const leave = () => {
    if (typed) setLeaving(true);
    else onClose();
  };

  useEffect(() => latest(take(api.GET("/api/offers")), setOffers, (fault) => setTrouble(sentence(fault))), []);
  useEffect(() => {
    if (file === null) return;
    const stop = new AbortController();
    bring(file, setWent, stop.signal)
      .then(setBrought, (fault: unknown) => {
        if (!stop.signal.aborted) setTrouble(sentence(fault));
      })
      .finally(() => setBusy(false));
    return () => {
      stop.abort();
    };
  }, [file]);

  const basics = useMemo(
    (): Schemas["Basics"] => ({
      tempo_bpm: Number(form.tempo),
      bar_one_s: barOneS,
      meter: form.meter,
      tuning: form.tuning === OTHER ? form.typed : form.tuning,
      capo: Number(form.capo),
      key: form.tonic === "" ? null : `${form.tonic} ${form.mode}`,
      feel: form.feel,
      swing_ratio: form.feel === "swing" ? Number(form.ratio) : null,
      swing_unit: null,
      bars: null,
      pickup_pulses: null,
      offset_cents: cents,
      last_fret: null,
      keep_seconds: false,
      keep_pitches: false,
      first_bar: Number(form.first) || 1,
      last_bar: form.last === "" ? null : Number(form.last),
    }),
    [form, barOneS, cents],
  );

  const [tuningRead, setTuningRead] = useState<{ message: string; fault?: string }>({ message: "low to high" });
  const readTuning = async () => {
    if (form.typed.trim() === "") return;
    try {
      setTuningRead({ message: (await take(api.POST("/api/check/tuning", { body: { text: form.typed } }))).text });
    } catch (fault) {
      setTuningRead({ message: "", fault: sentence(fault) });
    }
  };

  const starting = useRef(false); // at once: a second Enter comes before the button is drawn anew
  const start = async () => {
    starting.current = true;
    setBusy(true);
    setTrouble(null);
    setFaults([]);
    try {
      const { solo_id } = await take(
        api.POST("/api/solos", {
          body: {
            id,
            tune: form.tune,
            title: form.title,
            player: form.player,
            recording_id: brought?.recording.id ?? null,
            chart: form.chart,
            basics,
          },
        }),
      );
      // The grid goes through the beats that were heard, as long as nothing else was typed over them.
      if (beats !== null && beats.tempo === form.tempo && Math.abs((beats.at[0] ?? 0) - barOneS) < 0.01)
        await take(
          api.PUT("/api/solos/{solo_id}/taps", {
            params: { path: { solo_id } },
            body: { taps: [...beats.at], tick: 0, keep_seconds: false },
          }),
        );
      onStarted(solo_id);
    } catch (fault) {
      if (fault instanceof Refusal && fault.problem.faults) setFaults(fault.problem.faults);
      setTrouble(sentence(fault));
    } finally {
      starting.current = false;
      setBusy(false);
    }
  };

  return (
    <Dialog
      wide
      open
      onOpenChange={(open) => {
        if (!open) leave();
      }}
      title={file === null ? "A solo without a recording" : "A new recording"}
    >
      {leaving && (
        <div role="alert" className="mb-3 flex flex-wrap items-center gap-3 border-l-4 border-doubt bg-sheet px-4 py-2">
          <p className="font-bold">Throw away what you typed here?</p>
          <Button size="small" onClick={onClose}>
            Throw it away
          </Button>
          <Button size="small" strong autoFocus onClick={() => setLeaving(false)}>
            Go on with it
          </Button>
        </div>
      )}
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          if (!starting.current) void start();
        }}
      >
        {file !== null && (
          <div role="status" className="border-l-4 border-rule-2 pl-3 text-ink-2">
            {brought === null && busy && (
              <div className="flex items-center gap-3">
                <p className="min-w-0 flex-1 truncate">
                  {went < 1 ? `Uploading “${file.name}”: ${Math.floor(went * 100)} %` : `Reading “${file.name}” …`}
                </p>
                <progress
                  aria-label="How much of it has come"
                  className="h-2 w-40 accent-[var(--ink)]"
                  value={went < 1 ? went : undefined}
                  max={1}
                />
                <Button quiet onClick={onClose}>
                  Stop, and keep nothing
                </Button>
              </div>
            )}
            {brought !== null && (
              <p>
                “{brought.recording.file_name}”, {brought.recording.seconds.toFixed(1)} seconds
                {brought.known ? ", which is here already" : ""}.
                {brought.notices.map((notice) => (
                  <span key={notice} className="block font-bold text-doubt">
                    {notice}
                  </span>
                ))}
              </p>
            )}
          </div>
        )}
        {brought !== null && <FirstLook recordingId={brought.recording.id} onTake={takeOver} />}
        {brought !== null && <BarOne recording={brought.recording} second={barOneS} onChange={setBarOneS} />}
        <div className="grid grid-cols-1 gap-4 sm:grid-cols-3">
          <Field label="Tune" required value={form.tune} onChange={set("tune")} />
          <Field label="Which solo" placeholder="second chorus" value={form.title} onChange={set("title")} />
          <Field label="Player" value={form.player} onChange={set("player")} />
        </div>
        <div className="grid grid-cols-2 gap-x-4 gap-y-3 sm:grid-cols-6">
          <Field
            label="Tempo"
            type="number"
            min={20}
            max={400}
            step="any"
            required
            value={form.tempo}
            onChange={set("tempo")}
            title="pulses a minute"
          />
          <Choose label="Meter" options={offers?.meters ?? ["4/4"]} value={form.meter} onChoose={choose("meter")} />
          <Choose label="Feel" options={FEELS} value={form.feel} onChoose={choose("feel")} />
          <Field
            label="Swing ratio"
            type="number"
            min={1}
            max={3}
            step={0.1}
            disabled={form.feel !== "swing"}
            value={form.ratio}
            onChange={set("ratio")}
          />
          <Choose label="Key" options={LETTERS} value={form.tonic} onChoose={choose("tonic")} />
          <Choose
            label="Mode"
            options={offers?.modes ?? ["major"]}
            disabled={form.tonic === ""}
            value={form.mode}
            onChoose={choose("mode")}
          />
        </div>
        <Area
          label="Chord chart"
          rows={3}
          value={form.chart}
          onChange={set("chart")}
          placeholder={"| Cm7 | F9 . . Bb |\n| Ebmaj7 | % |"}
          hint="Bars between |. Chords share a bar; once there is a dot, every sign is a beat. % repeats a bar. |: … :| plays twice. It can be changed later."
        />
        <details>
          <summary className="cursor-pointer font-bold text-ink-2">Tuning, capo, bars: {rareWords(form)}</summary>
          <div className="mt-2 grid grid-cols-2 gap-x-4 gap-y-3 sm:grid-cols-5">
            <Field label="Solo from bar" type="number" min={0} value={form.first} onChange={set("first")} />
            <Field
              label="to bar"
              type="number"
              min={1}
              placeholder="to the end"
              value={form.last}
              onChange={set("last")}
            />
            <Choose
              label="Tuning"
              options={[...(offers?.tunings ?? ["standard"]), OTHER]}
              value={form.tuning}
              onChoose={choose("tuning")}
            />
            <Field
              label="Typed tuning"
              placeholder="D A D G B E"
              disabled={form.tuning !== OTHER}
              value={form.typed}
              onChange={set("typed")}
              onBlur={() => void readTuning()}
              hint={tuningRead.message}
              fault={tuningRead.fault}
            />
            <Field label="Capo" type="number" min={0} max={12} value={form.capo} onChange={set("capo")} />
          </div>
        </details>
        {faults.length > 0 && (
          <ul aria-label="Faults of the chart" className="border-l-4 border-doubt pl-3">
            {faults.map((fault) => (
              <li key={`${fault.line} ${fault.column} ${fault.sentence}`}>{fault.sentence}</li>
            ))}
          </ul>
        )}
        {trouble !== null && faults.length === 0 && (
          <p role="alert" className="border-l-4 border-doubt bg-sheet px-4 py-3 font-bold">
            {trouble}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button quiet onClick={leave}>
            Cancel
          </Button>
          <Button strong type="submit" disabled={busy || (file !== null && brought === null)}>
            Start writing
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
