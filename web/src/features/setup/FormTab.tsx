import { type ChangeEvent, useEffect, useRef, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { useBarHere, useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { request } from "@/score/sending";
import { Area, Button, Field } from "@/ui/parts";
import { Chart } from "./Chart";
import { Settle } from "./settle";
import type { Player } from "@/score/playing";

/** The chart beside its sections, the order in which they are played, and cues. */
export function FormTab({ player }: { player: Player }) {
  const bench = useDocument((state) => state.bench);
  const bar = useBarHere();
  if (bench === null) return null;
  return (
    <div className="grid h-full grid-cols-1 gap-x-6 max-sm:h-auto gap-y-3 lg:grid-cols-[minmax(0,1fr)_320px]">
      <Chart />
      <div className="flex min-h-0 flex-col gap-3 lg:overflow-y-auto">
        <p aria-label="Place in the form" className="text-[14px]">
          <b>Bar {bar?.label}</b>{" "}
          {bar?.form
            ? `is ${bar.form}.`
            : bar !== undefined && bar.number < 1
              ? "is the pick-up, before the chart."
              : "lies after the chart."}
        </p>
        <Sections player={player} />
        <Cues />
      </div>
    </div>
  );
}

/** Sections by the time at which they begin, and how often each is played. */
function Sections({ player }: { player: Player }) {
  const soloId = useDocument((state) => state.bench?.solo_id);
  const version = useDocument((state) => (state.bench === null ? 0 : (state.versions[state.bench.ground_id] ?? 0)));
  const grid = useDocument((state) => state.grid);
  const cursor = useCursor((state) => state.cursor.tick);
  const [form, setForm] = useState<Schemas["WrittenForm"] | null>(null);
  const [text, setText] = useState("");
  const [message, setMessage] = useState("");
  const loaded = useRef("");
  const naming = useRef(false);
  useEffect(() => {
    if (soloId === undefined) return undefined;
    return latest(
      take(api.GET("/api/solos/{solo_id}/form", { params: { path: { solo_id: soloId } } })),
      (now) => {
        setForm(now);
        const stored = now.sections
          .split("\n")
          .filter(Boolean)
          .map((line) => {
            const [start = "0", , name = ""] = line.split("\t");
            return `${clock(Number(start))} ${name}`;
          })
          .join("\n");
        if (naming.current) return; // what was asked before it is older than what is being stored
        const shown = loaded.current;
        loaded.current = stored;
        setText((typed) => (typed === shown ? stored : typed)); // what is being typed stays
      },
      (fault) => setMessage(sentence(fault)),
    );
  }, [soloId, version]);
  const name = async () => {
    setMessage("");
    naming.current = true;
    const done = await request((solo_id) =>
      take(api.PUT("/api/solos/{solo_id}/sections", { params: { path: { solo_id } }, body: { text } })),
    );
    naming.current = false;
    if (!done) return;
    loaded.current = text; // it is stored now, so what comes back may take its place
    setMessage(text.trim() === "" ? "The sections are cleared." : "Named.");
  };
  const here = () => {
    const at = player.position() ?? grid.second(cursor);
    setText(
      `${text.trimEnd()}${text.trim() === "" ? "" : "\n"}${clock(at)} section ${text.split("\n").filter((line) => line.trim()).length + 1}`,
    );
  };
  const bringIn = (event: ChangeEvent<HTMLInputElement>) => {
    const file = event.target.files?.[0];
    event.target.value = "";
    if (file !== undefined)
      void file.text().then((read) => {
        setText(read.trimEnd());
        setMessage("Read. Check it, then name the sections.");
      });
  };
  return (
    <div className="flex flex-col gap-2">
      <Area
        label="Sections by time"
        rows={3}
        value={text}
        onChange={(event) => setText(event.target.value)}
        placeholder={"0:05 head\n1:07 second chorus"}
      />
      <div className="flex flex-wrap items-center gap-2">
        <Button onClick={here} title="a line at the playhead, or at the cursor">
          Section here
        </Button>
        <Button strong onClick={() => void name()}>
          Name the sections
        </Button>
        <p role="status" aria-label="Sections" className="text-[14px] text-ink-2">
          {message}
        </p>
      </div>
      <Settle
        label="Order and counts"
        value={form?.order ?? ""}
        hint="verse 2, riff 4 … or how often each: 1-3-2"
        onSettle={(order) =>
          request((solo_id) =>
            take(api.PUT("/api/solos/{solo_id}/order", { params: { path: { solo_id } }, body: { text: order } })),
          )
        }
      />
      <p className="text-[14px]">
        export{" "}
        <a className="underline" href={`/api/solos/${soloId}/sections.tsv`}>
          sections
        </a>{" "}
        ·{" "}
        <a className="underline" href={`/api/solos/${soloId}/chart.txt`}>
          chart
        </a>{" "}
        ·{" "}
        <label className="cursor-pointer underline">
          import sections
          <input type="file" accept=".tsv,.txt,text/*" className="sr-only" onChange={bringIn} />
        </label>
      </p>
    </div>
  );
}

const clock = (second: number): string => {
  const tenths = Math.round(Math.max(0, second) * 100);
  return `${Math.floor(tenths / 6_000)}:${String(Math.floor((tenths % 6_000) / 100)).padStart(2, "0")}.${String(tenths % 100).padStart(2, "0")}`;
};

/** Words that are sung or said, or another player's entry: a fill is found by what it answers. */
function Cues() {
  const cues = useDocument((state) => state.bench?.strip.cues ?? []);
  const ground = useDocument((state) => state.bench?.ground.cues ?? []);
  const cursor = useCursor((state) => state.cursor.tick);
  const [words, setWords] = useState("");
  const put = (next: readonly Schemas["Cue"][]) =>
    request((solo_id) =>
      take(api.PUT("/api/solos/{solo_id}/cues", { params: { path: { solo_id } }, body: { cues: [...next] } })),
    );
  const pin = async () => {
    if (words.trim() !== "" && (await put([...ground, { id: crypto.randomUUID(), tick: cursor, words: words.trim() }])))
      setWords("");
  };
  return (
    <form
      className="flex flex-col gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        void pin();
      }}
    >
      <div className="flex items-end gap-2">
        <div className="flex-1">
          <Field
            label="Cue"
            value={words}
            placeholder="words sung, or an entry"
            onChange={(event) => setWords(event.target.value)}
          />
        </div>
        <Button type="submit">Add the cue here</Button>
      </div>
      <ul aria-label="Cues" className="text-[14px]">
        {cues.map((cue) => (
          <li key={cue.id} className="flex gap-2">
            <b>{cue.where}</b>
            <span className="min-w-0 flex-1 truncate">{cue.words}</span>
            <button
              type="button"
              aria-label={`Delete the cue ${cue.words}`}
              className="underline"
              onClick={() => void put(ground.filter((one) => one.id !== cue.id))}
            >
              drop
            </button>
          </li>
        ))}
      </ul>
    </form>
  );
}
