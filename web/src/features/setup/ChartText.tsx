import { type ChangeEvent, useCallback, useEffect, useRef, useState } from "react";
import { api, Refusal, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { useDocument } from "@/score/document";
import { request } from "@/score/sending";
import { Button, MarkedArea } from "@/ui/parts";
import { ChordsDialog } from "./ChordsDialog";
import { FormDialog } from "./FormDialog";

type Fault = Schemas["FaultDetail"];
const PAUSE_MS = 700;

/** The chart as text. After each pause it is put in force when it reads; else its faults are marked, it is kept as a draft, and the last good chart stays. */
export function ChartText() {
  const bench = useDocument((state) => state.bench);
  const soloId = bench?.solo_id;
  const version = useDocument((state) => (bench === null ? 0 : (state.versions[bench.ground_id] ?? 0)));
  const [text, setText] = useState("");
  const [faults, setFaults] = useState<readonly Fault[]>([]);
  const [message, setMessage] = useState("");
  const [forms, setForms] = useState(false);
  const [hearing, setHearing] = useState(false);
  const writing = useRef(false); // what is being typed stays as it is typed
  const known = useRef(""); // the text as it was last sent or fetched
  const stored = useRef(""); // the text as the server prints it
  const fetchStored = useCallback(() => {
    if (soloId === undefined) return undefined;
    return latest(
      take(api.GET("/api/solos/{solo_id}/chart", { params: { path: { solo_id: soloId } } })),
      (chart) => {
        const before = known.current;
        stored.current = chart.draft ?? chart.text;
        if (!writing.current) {
          known.current = stored.current;
          setText((typed) => (typed === before ? stored.current : typed));
        }
        if (chart.draft !== null) setMessage("A draft with faults; the last good chart is in force.");
      },
      (fault) => setMessage(sentence(fault)),
    );
  }, [soloId]);
  useEffect(fetchStored, [fetchStored, version]);
  const put = useCallback(
    async (wanted: string) => {
      if (wanted === known.current) return;
      const before = known.current;
      known.current = wanted;
      try {
        const done = await request((solo_id) =>
          take(api.PUT("/api/solos/{solo_id}/chart", { params: { path: { solo_id } }, body: { text: wanted } })),
        );
        if (!done) known.current = before;
        setFaults([]);
        setMessage(done ? "The chart is in force." : "");
        if (!writing.current) fetchStored();
      } catch (fault) {
        if (fault instanceof Refusal) setFaults(fault.problem.faults ?? []);
        setMessage("Kept as a draft; the last good chart stays in force.");
      }
    },
    [fetchStored],
  );
  useEffect(() => {
    if (text === known.current || text.trim() === "") return undefined;
    const soon = setTimeout(() => void put(text), PAUSE_MS);
    return () => clearTimeout(soon);
  }, [text, put]);
  const leave = () => {
    writing.current = false;
    if (text !== known.current) void put(text);
    else if (faults.length === 0) {
      known.current = stored.current;
      setText(stored.current);
    }
  };
  const bringIn = (event: ChangeEvent<HTMLInputElement>) => {
    const file = event.target.files?.[0];
    event.target.value = "";
    if (file !== undefined) void file.text().then((read) => setText(read.trimEnd()));
  };
  const many = faults.length > 0 ? `${faults.length} fault${faults.length > 1 ? "s" : ""}. ` : "";
  return (
    <div className="flex flex-col gap-2">
      <MarkedArea
        label="Chord chart"
        rows={5}
        value={text}
        marks={faults.map((fault) => spot(text, fault))}
        onFocus={() => {
          writing.current = true;
        }}
        onBlur={leave}
        onChange={(event) => {
          setText(event.target.value);
          setMessage("");
        }}
      />
      {faults.length > 0 && (
        <ul
          aria-label="Faults of the chart"
          className="max-h-[72px] overflow-y-auto border-l-4 border-doubt pl-3 text-[14px]"
        >
          {faults.map((fault) => (
            <li key={`${fault.line} ${fault.column} ${fault.sentence}`}>{fault.sentence}</li>
          ))}
        </ul>
      )}
      <div className="flex flex-wrap items-center gap-2">
        <Button onClick={() => setForms(true)}>Stock forms …</Button>
        {bench?.recording != null && <Button onClick={() => setHearing(true)}>Hear chords …</Button>}
        <label className="cursor-pointer text-[14px] underline focus-within:outline-2">
          import a chart
          <input type="file" accept=".txt,text/plain" className="sr-only" onChange={bringIn} />
        </label>
        <p role="status" aria-label="Chart" className="text-[14px] text-ink-2">
          {text.trim() === "" ? "" : `${many}${message}`}
        </p>
      </div>
      {hearing && (
        <ChordsDialog
          onClose={() => setHearing(false)}
          onTake={(taken) => setText(text.trim() === "" ? taken : `${text.trimEnd()}\n${taken}`)}
        />
      )}
      {forms && (
        <FormDialog
          tonic={bench?.strip.key.split(" ")[0] || "A"}
          onClose={() => setForms(false)}
          onTake={(taken) => {
            setText(taken);
            setForms(false);
          }}
        />
      )}
    </div>
  );
}

/** Where the piece at fault lies in the text: from and to in letters. */
const spot = (text: string, fault: Fault): readonly [number, number] => {
  const lines = text.split("\n");
  const start =
    lines.slice(0, fault.line - 1).reduce((sum, line) => sum + line.length + 1, 0) + Math.max(0, fault.column - 1);
  const rest = (lines[fault.line - 1] ?? "").length - Math.max(0, fault.column - 1);
  return [start, start + Math.max(1, Math.min(fault.piece.length, rest))];
};
