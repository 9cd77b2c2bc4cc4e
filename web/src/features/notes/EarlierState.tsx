import { useState } from "react";
import { useNavigate } from "react-router";
import { api, sentence, take } from "@/api/client";
import { useDocument } from "@/score/document";
import { Button } from "@/ui/parts";
import { useStates } from "./useStates";

/** What stands beside the neck while an earlier state is open: which it is, the states beside it, the way back. */
export function EarlierState({ soloId, state }: { soloId: string; state: number }) {
  const navigate = useNavigate();
  const notes = useDocument((bench) => Object.keys(bench.elements.notes).length);
  const [trouble, setTrouble] = useState("");
  const states = useStates(soloId, state, setTrouble);
  const newest = states[0]?.version ?? state;
  const made = states.find((one) => one.version === state);
  const open = (other: number | null) =>
    void navigate(`/solos/${soloId}/notes${other === null ? "" : `?state=${other}`}`);
  const putBack = () =>
    take(
      api.POST("/api/solos/{solo_id}/restore", { params: { path: { solo_id: soloId } }, body: { version: state } }),
    ).then(
      () => open(null),
      (fault: unknown) => setTrouble(sentence(fault)),
    );
  return (
    <section aria-label="Earlier state" className="flex flex-col gap-2 border-l-4 border-pick pl-4">
      <h2 className="font-naming text-[22px] font-semibold leading-7">
        State {state} of {newest}
      </h2>
      <p>
        {made === undefined ? (
          "As it began"
        ) : (
          <>
            After <b>{made.label}</b>,{" "}
            {new Date(made.at).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" })}
          </>
        )}
        : {notes} note{notes === 1 ? "" : "s"}. It is open to be read and played; nothing is written on it.
      </p>
      <p role="status" aria-label="Earlier state" className="text-doubt">
        {trouble}
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <Button size="narrow" disabled={state === 0} onClick={() => open(state - 1)}>
          ‹ before it
        </Button>
        <Button size="narrow" disabled={state >= newest} onClick={() => open(state + 1)}>
          after it ›
        </Button>
        <Button strong disabled={state >= newest} onClick={() => void putBack()}>
          Restore this state
        </Button>
        <Button quiet onClick={() => open(null)}>
          Back to the present
        </Button>
      </div>
    </section>
  );
}
