import { useEffect, useState } from "react";
import { api, Refusal, type Schemas, sentence, take } from "@/api/client";
import { request, useBench } from "@/score/bench";
import { Area, Button, Choose, Field } from "@/ui/parts";
import { CreditsDialog } from "./CreditsDialog";
import { ChordsDialog } from "./ChordsDialog";
import { FormDialog } from "./FormDialog";
import { BeatsHeard, Hear } from "./Hear";
import { type Retune, RetuneDialog } from "./RetuneDialog";
import { type Playing, TapDialog } from "./TapDialog";

/** What is settled before the first note, and may be changed later: notes keep their ticks and frets. */
export function GroundPanel({ player }: { player: Playing }) {
  const bench = useBench((state) => state.bench);
  const grid = useBench((state) => state.grid);
  const [offers, setOffers] = useState<Schemas["Offers"] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [keepSeconds, setKeepSeconds] = useState(false);
  const [tapping, setTapping] = useState(false);
  const [crediting, setCrediting] = useState(false);
  const [retune, setRetune] = useState<Retune | null>(null);
  const said = useBench((state) => state.said);
  const cursor = useBench((state) => state.cursor.tick);
  const written = useBench((state) => Object.keys(state.things.notes).length > 0);
  useEffect(() => {
    take(api.GET("/api/offers")).then(setOffers, (fault: unknown) => setTrouble(sentence(fault)));
  }, []);
  if (bench === null) return null;
  const { strip } = bench;
  const settle = async (change: Partial<Schemas["Basics"]>) => {
    setTrouble(null);
    return request((solo_id) => take(api.PUT("/api/solos/{solo_id}/basics", { params: { path: { solo_id } }, body: { ...NOTHING, keep_seconds: keepSeconds, ...change } })));
  };
  const bar = strip.bars.find((one) => cursor >= one.tick && cursor < one.end) ?? strip.bars[0];
  const barAt = async (second: number) => {
    if (bar === undefined) return false;
    if (!Number.isFinite(second)) { setTrouble("Where a bar starts is a number of seconds."); return false; }
    setTrouble(null);
    return request((solo_id) => take(api.PUT("/api/solos/{solo_id}/bars/{bar}", { params: { path: { solo_id, bar: bar.number } }, body: { second: round(second), keep_seconds: keepSeconds } })));
  };
  const lay = (beats: readonly number[]) => {
    setTrouble(null);
    return request((solo_id) => take(api.PUT("/api/solos/{solo_id}/taps", { params: { path: { solo_id } }, body: { taps: [...beats], tick: 0, keep_seconds: keepSeconds } })));
  };
  const starts = bar === undefined ? 0 : grid.second(bar.tick);
  const key = strip.key.split(" ");
  return (
    <section aria-label="Ground" className="grid min-h-0 grid-cols-1 gap-6 overflow-y-auto px-5 py-3 lg:grid-cols-2">
      <div>
        <div className="mb-2 flex items-center justify-between gap-3">
          <p className="text-ink-2" aria-label="Ground in words">{[strip.tempo, strip.key, strip.feel].filter(Boolean).join(" · ")}</p>
          <Button quiet onClick={() => setCrediting(true)}>Credits …</Button>
        </div>
        {bench.tables.disputes.map((words) => <p key={words} className="mb-2 border-l-4 border-doubt pl-3 font-bold">{words}</p>)}
        <div role="group" aria-label="Grid" className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2 border-b border-rule pb-3">
          <Button onClick={() => setTapping(true)}>Tap along …</Button>
          {bar !== undefined && (
            <div className="flex items-end gap-1">
              <div className="w-28"><Settle label={`Bar ${bar.label} at, s`} value={starts.toFixed(3)} onSettle={(value) => barAt(Number(value))} /></div>
              <Button className="px-3" title="5 ms earlier" aria-label={`Bar ${bar.label} 5 ms earlier`} onClick={() => void barAt(starts - 0.005)}>−5</Button>
              <Button className="px-3" title="5 ms later" aria-label={`Bar ${bar.label} 5 ms later`} onClick={() => void barAt(starts + 0.005)}>+5</Button>
              <Button className="px-3" title={`bar ${bar.label} starts where it plays now`} onClick={() => { const now = player.position(); if (now === null) setTrouble("Nothing plays: press play, and this when the bar begins."); else void barAt(now); }}>Here</Button>
            </div>
          )}
          {bench.recording !== null && (
            <Hear label="Hear the beat" kind="beats" soloId={bench.solo_id}>
              {(found, done) => <BeatsHeard found={found} onLay={(beats) => { void lay(beats).then((laid) => { if (laid) done(); }); }} />}
            </Hear>
          )}
          <div className="w-40"><Choose label="Notes keep" options={["their beats", "their seconds"]} value={keepSeconds ? "their seconds" : "their beats"} onChange={(event) => setKeepSeconds(event.target.value === "their seconds")} /></div>
        </div>
        {said.length > 0 && <ul role="status" aria-label="What was found" className="mb-3 border-l-4 border-ink pl-3 text-[15px]">{said.slice(0, 40).map((words) => <li key={words}>{words}</li>)}</ul>}
        <div className="grid grid-cols-3 gap-x-3 gap-y-2 sm:grid-cols-5">
          <Settle label="Tempo" value={strip.tempo.split("= ")[1] ?? ""} onSettle={(value) => settle({ tempo_bpm: Number(value) })} />
          {bar?.number !== 1 && <Settle label="Bar 1 at, s" value={grid.second(0).toFixed(3)} onSettle={(value) => settle({ bar_one_s: Number(value) })} />}
          <Choose label="Meter" options={[...new Set([...(offers?.meters ?? []), strip.bars.find((bar) => bar.meter)?.meter ?? "4/4"])]} value={strip.bars.find((bar) => bar.meter)?.meter ?? "4/4"} onChange={(event) => void settle({ meter: event.target.value })} />
          <Settle label="Key" value={strip.key} onSettle={(value) => settle({ key: value })} hint={key[0] === "" ? "E minor, D dorian …" : undefined} />
          <Choose label="Feel" options={["straight", "swing", "triplet"]} value={strip.feel.split(" ")[0] ?? "straight"} onChange={(event) => void settle({ feel: event.target.value })} />
          <Settle label="Swing ratio" value={strip.feel.split(" ")[1] ?? ""} onSettle={(value) => settle({ feel: "swing", swing_ratio: Number(value) })} />
          <Settle label="Bars" value={String(bench.ground.settings.bars)} onSettle={(value) => settle({ bars: Number(value) })} />
          <Settle label="Solo from bar" value={String(bench.solo.settings.first_bar)} onSettle={(value) => settle({ first_bar: Number(value) })} />
          <Settle label="to bar" value={String(bench.solo.settings.last_bar)} onSettle={(value) => settle({ last_bar: Number(value) })} />
          <Settle label="Tuning" value={[...bench.tables.strings].reverse().map((string) => string.name).join(" ")} onSettle={(value) => { setRetune({ tuning: value, capo: null }); return Promise.resolve(false); }} />
          <Settle label="Capo" value={String(bench.solo.settings.capo)} onSettle={(value) => { setRetune({ tuning: null, capo: Number(value) }); return Promise.resolve(false); }} />
          <Settle label="Off by cents" value={String(bench.ground.settings.offset_cents)} onSettle={(value) => settle({ offset_cents: Number(value) })} hint="heard minus written" />
        </div>
        {bench.recording !== null && (
          <div className="mt-2 flex flex-wrap items-start gap-x-6 gap-y-2">
            <Hear label="Measure the pitch" kind="offset" soloId={bench.solo_id}>
              {({ cents }, done) => cents == null ? null : (
                <>
                  <Button strong onClick={() => { void settle({ offset_cents: cents }); done(); }}>Use {cents > 0 ? "+" : ""}{cents}</Button>
                  <span className="w-full text-[14px] text-ink-2">Known within half a semitone only: a tape that runs further off, or strings tuned down, is for the ear.</span>
                </>
              )}
            </Hear>
            <Hear label="Measure the swing" kind="swing" soloId={bench.solo_id} firstBar={bench.solo.settings.first_bar} lastBar={bench.solo.settings.last_bar}>
              {({ ratio, count }, done) => ratio == null || count == null || count < 16 ? null : (
                <Button strong onClick={() => { void settle(ratio < 1.12 ? { feel: "straight" } : { feel: "swing", swing_ratio: ratio }); done(); }}>{ratio < 1.12 ? "It is straight" : `Use ${ratio}`}</Button>
              )}
            </Hear>
          </div>
        )}
        {trouble !== null && <p role="alert" className="mt-2 font-bold text-doubt">{trouble}</p>}
        <Misfits />
        {crediting && <CreditsDialog onClose={() => setCrediting(false)} />}
        {tapping && <TapDialog player={player} keepSeconds={keepSeconds} onClose={() => setTapping(false)} />}
        {retune !== null && (
          <RetuneDialog soloId={bench.solo_id} wanted={retune} written={written} onClose={() => setRetune(null)}
            onChoose={(keep_pitches) => { setRetune(null); void settle({ tuning: retune.tuning, capo: retune.capo, keep_pitches }); }} />
        )}
      </div>
      <ChartText />
    </section>
  );
}

const NOTHING: Schemas["Basics"] = {
  tempo_bpm: null, bar_one_s: null, meter: null, key: null, feel: null, swing_ratio: null, swing_unit: null, bars: null, pickup_pulses: null,
  offset_cents: null, tuning: null, capo: null, last_fret: null, first_bar: null, last_bar: null, keep_seconds: false, keep_pitches: false,
};
const round = (second: number) => Math.round(second * 1_000) / 1_000;

/** A field that settles its value when it is left or entered. */
function Settle({ label, value, hint, onSettle }: { label: string; value: string; hint?: string | undefined; onSettle: (value: string) => Promise<boolean> }) {
  const [typed, setTyped] = useState(value);
  useEffect(() => setTyped(value), [value]);
  const settle = async () => {
    if (typed.trim() === value || typed.trim() === "") setTyped(value);
    else {
      if (!(await onSettle(typed.trim()))) setTyped(value); // a refused one goes back
    }
  };
  return <Field label={label} hint={hint} value={typed} onChange={(event) => setTyped(event.target.value)} onBlur={() => void settle()} onKeyDown={(event) => { if (event.key === "Enter") void settle(); }} />;
}

/** What no longer fits after a change: it stays in the document and is listed. */
function Misfits() {
  const misfits = useBench((state) => state.bench?.misfits ?? []);
  if (misfits.length === 0) return null;
  return (
    <section aria-label="What does not fit" className="mt-3 border-l-4 border-doubt pl-3">
      <h3 className="font-bold">{misfits.length === 1 ? "One thing does not fit" : `${misfits.length} things do not fit`}; nothing was dropped.</h3>
      <ul className="text-[14px]">{misfits.slice(0, 30).map((one) => <li key={`${one.kind} ${one.id}`}>{one.sentence}</li>)}</ul>
    </section>
  );
}

/** The chart as text. Faulty text is kept as a draft with every fault named; the last good chart stays in force. */
function ChartText() {
  const bench = useBench((state) => state.bench);
  const soloId = bench?.solo_id;
  const version = useBench((state) => (bench === null ? 0 : (state.versions[bench.ground_id] ?? 0)));
  const [text, setText] = useState("");
  const [faults, setFaults] = useState<Schemas["FaultDetail"][]>([]);
  const [said, setSaid] = useState("");
  const [forms, setForms] = useState(false);
  const [hearing, setHearing] = useState(false);
  useEffect(() => {
    if (soloId === undefined) return;
    take(api.GET("/api/solos/{solo_id}/chart", { params: { path: { solo_id: soloId } } })).then(
      (chart) => {
        setText(chart.draft ?? chart.text);
        if (chart.draft !== null) setSaid("A draft with faults; the last good chart is in force.");
      },
      (fault: unknown) => setSaid(sentence(fault)),
    );
  }, [soloId, version]);
  const apply = async () => {
    setFaults([]);
    try {
      const done = await request((solo_id) => take(api.PUT("/api/solos/{solo_id}/chart", { params: { path: { solo_id } }, body: { text } })));
      setSaid(done ? "The chart is in force." : "");
    } catch (fault) {
      if (fault instanceof Refusal) setFaults(fault.problem.faults ?? []);
      setSaid("Kept as a draft; the last good chart stays in force.");
    }
  };
  return (
    <form className="flex flex-col gap-2" onSubmit={(event) => { event.preventDefault(); void apply(); }}>
      <Area label="Chord chart" rows={5} value={text} onChange={(event) => setText(event.target.value)} />
      <div className="flex items-center gap-3"><Button strong type="submit">Put the chart in force</Button><Button onClick={() => setForms(true)}>Stock forms …</Button>{bench?.recording != null && <Button onClick={() => setHearing(true)}>Hear chords …</Button>}<p role="status" className="text-[14px] text-ink-2">{said}</p></div>
      {faults.length > 0 && <ul aria-label="Faults of the chart" className="border-l-4 border-doubt pl-3 text-[14px]">{faults.map((fault) => <li key={`${fault.line} ${fault.column} ${fault.sentence}`}>{fault.sentence}</li>)}</ul>}
      {hearing && <ChordsDialog onClose={() => setHearing(false)} onTake={(taken) => { setText(text.trim() === "" ? taken : `${text.trimEnd()}\n${taken}`); setSaid("Taken into the text; put it in force when it is right."); }} />}
      {forms && <FormDialog tonic={bench?.strip.key.split(" ")[0] || "A"} onClose={() => setForms(false)} onTake={(taken) => { setText(taken); setForms(false); setSaid("Taken into the text; put it in force when it is right."); }} />}
    </form>
  );
}
