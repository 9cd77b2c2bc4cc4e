import { useEffect, useRef, useState } from "react";
import { api, Refusal, type Schemas, sentence, take } from "@/api/client";
import { request, useBench } from "@/score/bench";
import { Button, MarkedArea } from "@/ui/parts";
import { ChordsDialog } from "./ChordsDialog";
import { FormDialog } from "./FormDialog";

type Fault = Schemas["FaultDetail"];
const PAUSE_MS = 350;

/** The chart as text, read while it is typed. Faults are marked where they stand; the last good chart stays in force. */
export function ChartText() {
  const bench = useBench((state) => state.bench);
  const soloId = bench?.solo_id;
  const version = useBench((state) => (bench === null ? 0 : (state.versions[bench.ground_id] ?? 0)));
  const [text, setText] = useState("");
  const [inForce, setInForce] = useState("");
  const [faults, setFaults] = useState<readonly Fault[]>([]);
  const [said, setSaid] = useState("");
  const [forms, setForms] = useState(false);
  const [hearing, setHearing] = useState(false);
  const asked = useRef(0);
  const loaded = useRef("");
  useEffect(() => {
    if (soloId === undefined) return;
    take(api.GET("/api/solos/{solo_id}/chart", { params: { path: { solo_id: soloId } } })).then(
      (chart) => {
        const stored = chart.draft ?? chart.text;
        const shown = loaded.current;
        loaded.current = stored;
        setText((typed) => (typed === shown ? stored : typed)); // what is being typed stays
        setInForce(chart.text);
        if (chart.draft !== null) setSaid("A draft with faults; the last good chart is in force.");
      },
      (fault: unknown) => setSaid(sentence(fault)),
    );
  }, [soloId, version]);
  useEffect(() => {
    const turn = ++asked.current;
    if (text.trim() === "") { setFaults([]); return undefined; }
    const soon = setTimeout(() => {
      take(api.POST("/api/check/chart", { body: { text } })).then((found) => { if (turn === asked.current) setFaults(found.faults); }, () => undefined); // unread until the server is back
    }, PAUSE_MS);
    return () => clearTimeout(soon);
  }, [text]);
  const apply = async () => {
    const before = loaded.current;
    loaded.current = text; // it is stored now, so what comes back may take its place
    try {
      const done = await request((solo_id) => take(api.PUT("/api/solos/{solo_id}/chart", { params: { path: { solo_id } }, body: { text } })));
      setSaid(done ? "The chart is in force." : "");
      if (!done) loaded.current = before;
    } catch (fault) {
      if (fault instanceof Refusal) setFaults(fault.problem.faults ?? []);
      setSaid("Kept as a draft; the last good chart stays in force.");
    }
  };
  const status = faults.length > 0 ? `${faults.length} fault${faults.length > 1 ? "s" : ""}` : text !== inForce && text.trim() !== "" ? "Reads well; not in force yet." : said;
  return (
    <form className="flex flex-col gap-2" onSubmit={(event) => { event.preventDefault(); void apply(); }}>
      <MarkedArea label="Chord chart" rows={4} value={text} marks={faults.map((fault) => spot(text, fault))} onChange={(event) => { setText(event.target.value); setSaid(""); }} />
      {faults.length > 0 && <ul aria-label="Faults of the chart" className="max-h-[72px] overflow-y-auto border-l-4 border-doubt pl-3 text-[14px]">{faults.map((fault) => <li key={`${fault.line} ${fault.column} ${fault.sentence}`}>{fault.sentence}</li>)}</ul>}
      <div className="flex flex-wrap items-center gap-2">
        <Button strong type="submit">Put in force</Button>
        <Button onClick={() => setForms(true)}>Stock forms …</Button>
        {bench?.recording != null && <Button onClick={() => setHearing(true)}>Hear chords …</Button>}
        <p role="status" aria-label="Chart" className="text-[14px] text-ink-2">{status}{faults.length > 0 && said !== "" ? ` ${said}` : ""}</p>
      </div>
      {hearing && <ChordsDialog onClose={() => setHearing(false)} onTake={(taken) => setText(text.trim() === "" ? taken : `${text.trimEnd()}\n${taken}`)} />}
      {forms && <FormDialog tonic={bench?.strip.key.split(" ")[0] || "A"} onClose={() => setForms(false)} onTake={(taken) => { setText(taken); setForms(false); }} />}
    </form>
  );
}

/** Where the piece at fault lies in the text: from and to in letters. */
const spot = (text: string, fault: Fault): readonly [number, number] => {
  const lines = text.split("\n");
  const start = lines.slice(0, fault.line - 1).reduce((sum, line) => sum + line.length + 1, 0) + Math.max(0, fault.column - 1);
  const rest = (lines[fault.line - 1] ?? "").length - Math.max(0, fault.column - 1);
  return [start, start + Math.max(1, Math.min(fault.piece.length, rest))];
};
