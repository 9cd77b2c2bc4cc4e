import { useEffect, useState } from "react";
import { Link } from "react-router";
import { api, sentence, take } from "@/api/client";
import { useDocument } from "@/score/document";
import { compareTo, useShown } from "@/score/shown";
import { request } from "@/score/sending";
import { Button } from "@/ui/parts";
import { useStates } from "./useStates";
import { Differences } from "./VersionsTool";

/** Every state of this solo by what made it: seen beside the present one, and put back. */
export function HistoryTool() {
  const soloId = useDocument((state) => state.bench?.solo_id ?? "");
  const version = useDocument((state) => state.versions[soloId] ?? 0);
  const compared = useShown((state) => state.compared);
  const [open, setOpen] = useState<number | null>(null);
  const [trouble, setTrouble] = useState("");
  const states = useStates(soloId, version, setTrouble);
  useEffect(() => () => compareTo(null), []);
  const see = (state: number) => {
    setOpen(state);
    take(
      api.GET("/api/solos/{solo_id}/compare", { params: { path: { solo_id: soloId }, query: { version: state } } }),
    ).then(compareTo, (fault: unknown) => setTrouble(sentence(fault)));
  };
  const putBack = async (state: number) => {
    if (
      await request((solo_id) =>
        take(api.POST("/api/solos/{solo_id}/restore", { params: { path: { solo_id } }, body: { version: state } })),
      )
    )
      compareTo(null);
  };
  return (
    <div className="grid grid-cols-1 gap-x-6 text-[14px] lg:grid-cols-[1fr_1.2fr]">
      <ol aria-label="States" className="flex flex-col">
        {states.map((state) => (
          <li key={state.version} className="flex items-baseline gap-2">
            <span className="w-10 text-right text-ink-2">{state.version}</span>
            <button
              type="button"
              aria-pressed={open === state.version}
              aria-label={`See state ${state.version}: ${state.label}`}
              className={`min-h-6 text-left hover:underline ${open === state.version ? "font-bold" : ""}`}
              onClick={() => see(state.version)}
            >
              {state.label}
            </button>
            <span className="text-ink-3">
              {new Date(state.at).toLocaleString(undefined, { dateStyle: "short", timeStyle: "short" })}
            </span>
          </li>
        ))}
        <li className="flex items-baseline gap-2">
          <span className="w-10 text-right text-ink-2">0</span>
          <button type="button" className="min-h-6 hover:underline" onClick={() => see(0)}>
            as it began
          </button>
        </li>
      </ol>
      <div>
        {trouble !== "" && <p role="alert">{trouble}</p>}
        {open === null ? (
          <p className="text-ink-2">
            Choose a state: what the solo has otherwise now is shown on the strip, and it can be put back.
          </p>
        ) : (
          <div className="flex items-center gap-3">
            <Button size="narrow" disabled={open === version} onClick={() => void putBack(open)}>
              Put state {open} back
            </Button>
            <Link className="font-bold underline" to={`?state=${open}`}>
              Open it on the strip
            </Link>
          </div>
        )}
        {compared !== null && <Differences found={compared} />}
      </div>
    </div>
  );
}
