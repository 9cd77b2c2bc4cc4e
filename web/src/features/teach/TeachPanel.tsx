import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { setCursor } from "@/score/cursor";
import { LickFigure } from "@/score/LickFigure";
import { usePlaying } from "@/score/playing";
import { lineInHand, type PlanLine, type PlanView, remarksIn, type RemarkView, useTeaching } from "@/score/teaching";
import { Button, Key } from "@/ui/parts";
import { drawn } from "@/ui/signs";
import { LineDialog } from "./LineDialog";
import { LoopPackDialog } from "./LoopPackDialog";
import { Level, SmallStair } from "./marks";
import { choose, deleteRemark, leaveOut, moveLine, putBack, step } from "./plan";
import { PlanDialog } from "./PlanDialog";
import { RemarkDialog } from "./RemarkDialog";

/** The plan as stairs; beside it the line in hand, its remarks, and what a student takes home. */
export function TeachPanel({ soloId }: { soloId: string }) {
  const plan = useTeaching((state) => state.plan);
  const message = useTeaching((state) => state.message);
  const inHand = useTeaching(lineInHand);
  const [setting, setSetting] = useState(false);
  if (plan === null) return <main className="p-6 text-ink-2">{message || "Working out the plan …"}</main>;
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1.75fr)_minmax(0,1fr)] max-lg:grid-cols-1">
      <section aria-labelledby="plan" className="flex min-h-0 flex-col overflow-y-auto px-7 py-5 max-sm:px-4">
        <div className="flex flex-wrap items-baseline gap-x-4">
          <h2 id="plan" className="font-naming text-[25px] font-semibold">
            Plan
          </h2>
          <p className="text-ink-2">the whole, then phrase by phrase, then joined</p>
          <button
            type="button"
            className="ml-auto text-ink-2 hover:underline max-sm:ml-0"
            onClick={() => setSetting(true)}
          >
            Goal: <b className="text-ink">{plan.goal}</b> <span className="underline underline-offset-2">Speeds …</span>
          </button>
        </div>
        {plan.lines.length === 0 && plan.left_out.length === 0 ? (
          <p className="mt-6 text-[17px]">
            Nothing is written yet. The plan comes from the notes and their phrases:{" "}
            <Link className="font-bold underline" to={`/solos/${soloId}/notes`}>
              write some notes
            </Link>
            .
          </p>
        ) : (
          <Lines plan={plan} inHand={inHand} />
        )}
        {plan.left_out.length > 0 && <LeftOut lines={plan.left_out} />}
      </section>
      <aside
        aria-label="The line in hand"
        className="flex min-h-0 flex-col gap-4 overflow-y-auto border-l border-rule bg-sheet px-6 py-5 max-lg:border-l-0 max-lg:border-t"
      >
        {inHand !== null && <InHand key={inHand.key} line={inHand} plan={plan} soloId={soloId} />}
      </aside>
      {setting && <PlanDialog settings={plan.settings} onClose={() => setSetting(false)} />}
    </main>
  );
}

/** One line is in hand; arrows go from line to line, left and right move it. */
function Lines({ plan, inHand }: { plan: PlanView; inHand: PlanLine | null }) {
  const list = useRef<HTMLUListElement>(null);
  useEffect(() => {
    list.current?.querySelector("[aria-selected=true]")?.scrollIntoView({ block: "nearest" });
  }, [inHand?.key]);
  const onKey = (event: KeyboardEvent) => {
    if (inHand === null || event.ctrlKey || event.metaKey || event.altKey) return;
    const acts: Readonly<Record<string, () => void>> = {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      ArrowRight: () => void moveLine(inHand.what, 1),
      ArrowLeft: () => void moveLine(inHand.what, -1),
      Delete: () => void leaveOut(inHand.what),
      Backspace: () => void leaveOut(inHand.what),
    };
    const act = acts[event.key];
    if (act === undefined) return;
    event.preventDefault();
    act();
  };
  return (
    <ul
      ref={list}
      role="listbox"
      aria-label="Lines of the plan"
      aria-activedescendant={inHand === null ? undefined : `line-${inHand.key}`}
      tabIndex={0}
      data-home
      onKeyDown={onKey}
      className="mt-3 flex flex-col"
    >
      {plan.lines.map((line) => (
        <Line key={line.key} line={line} chosen={line.key === inHand?.key} />
      ))}
    </ul>
  );
}

function Line({ line, chosen }: { line: PlanLine; chosen: boolean }) {
  const speed = usePlaying((state) => (chosen && state.playing ? state.speed : null));
  const joined = line.kind === "joined";
  return (
    <li
      id={`line-${line.key}`}
      role="option"
      aria-selected={chosen}
      onClick={() => choose(line)}
      className={`grid cursor-pointer grid-cols-[minmax(0,1fr)_64px_200px] items-end gap-x-6 border-l-4 pl-3 pr-3 max-sm:grid-cols-[minmax(0,1fr)_56px] ${
        chosen ? "border-pick bg-sheet" : "border-transparent hover:bg-sheet"
      } ${joined ? "py-[3px] pl-9" : "py-[7px]"}`}
    >
      {joined ? (
        <span className="truncate text-[15px] text-ink-2" title={line.says}>
          {line.name} · {line.where}
        </span>
      ) : (
        <span className="min-w-0">
          <span className="block truncate text-[17px] font-bold">{line.name}</span>
          <span className="block truncate text-[14px] text-ink-2" title={line.says}>
            {line.where} · {drawn(line.reasons)}
            {line.remarks.length > 0 && ` · ${line.remarks.length} remark${line.remarks.length > 1 ? "s" : ""}`}
          </span>
        </span>
      )}
      <Level level={line.level} overruled={line.level !== line.computed} />
      <SmallStair steps={line.steps} speed={speed} low={joined} />
    </li>
  );
}

function LeftOut({ lines }: { lines: readonly PlanLine[] }) {
  return (
    <details className="mt-4">
      <summary className="cursor-pointer font-bold">
        {lines.length} line{lines.length > 1 ? "s" : ""} left out
      </summary>
      <ul className="mt-1">
        {lines.map((line) => (
          <li key={line.key} className="flex items-center gap-3 py-1">
            {line.name}, {line.where}
            <Button size="small" onClick={() => void putBack(line.what)}>
              Put back
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}

function InHand({ line, plan, soloId }: { line: PlanLine; plan: PlanView; soloId: string }) {
  const [open, setOpen] = useState<"line" | "remark" | "pack" | null>(null);
  const [remark, setRemark] = useState<RemarkView | null>(null);
  const close = () => setOpen(null);
  const remarks = remarksIn(plan, line.start, line.end);
  return (
    <>
      <div>
        <h2 className="font-naming text-[23px] font-semibold leading-tight">{line.name}</h2>
        <p className="text-ink-2">
          {line.where}, {line.notes} notes, {drawn(line.says)}.
        </p>
        <p className="text-ink-2">{line.stair}</p>
      </div>
      <div className="flex flex-wrap gap-2">
        <Link
          to={`/practice/${soloId}?line=${encodeURIComponent(line.key)}`}
          className="rounded-[5px] bg-ink px-4 py-2 font-bold text-paper"
        >
          Practise
        </Link>
        <Button onClick={() => setOpen("line")}>Change it …</Button>
        <Button aria-label="Move up" title="move up the plan (left arrow)" onClick={() => void moveLine(line.what, -1)}>
          ↑
        </Button>
        <Button
          aria-label="Move down"
          title="move down the plan (right arrow)"
          onClick={() => void moveLine(line.what, 1)}
        >
          ↓
        </Button>
        <Button quiet onClick={() => void leaveOut(line.what)}>
          {line.kind === "group" ? "Take out" : "Leave out"}
        </Button>
      </div>
      <section aria-label="Remarks" className="flex flex-col gap-2">
        <div className="flex items-baseline gap-3">
          <h3 className="font-naming text-[19px] font-semibold">Remarks</h3>
          <Button
            size="small"
            onClick={() => {
              setRemark(null);
              setOpen("remark");
            }}
          >
            Write one …
          </Button>
        </div>
        {remarks.length === 0 && (
          <p className="text-[15px] text-ink-2">
            What to watch, which finger, another way. It is shown while this loops, and printed.
          </p>
        )}
        <ul className="flex flex-col gap-3">
          {remarks.map((one) => (
            <li key={one.id} className="border-l-4 border-rule-2 pl-3">
              <button
                type="button"
                className="text-[14px] text-ink-2 hover:underline"
                onClick={() => setCursor({ tick: one.tick })}
              >
                {one.place}
              </button>
              <p className="text-[16px]">{drawn(one.words)}</p>
              {one.second !== null && (
                <div className="overflow-x-auto" aria-label="Second way" role="group">
                  <LickFigure drawing={one.second} width={330} scrolls />
                </div>
              )}
              <div className="flex gap-3 text-[14px]">
                <button
                  type="button"
                  className="underline underline-offset-2"
                  onClick={() => {
                    setRemark(one);
                    setOpen("remark");
                  }}
                >
                  Change
                </button>
                <button
                  type="button"
                  className="underline underline-offset-2"
                  onClick={() => void deleteRemark(one.id)}
                >
                  Delete
                </button>
              </div>
            </li>
          ))}
        </ul>
      </section>
      <div className="mt-auto flex flex-col gap-3 border-t border-rule pt-3">
        <p className="text-[14px] text-ink-2">
          {plan.cautions.hands} {plan.cautions.ears}
        </p>
        <div className="flex flex-wrap gap-2">
          <Link className="rounded-[5px] border border-rule-2 bg-sheet px-4 py-2 font-bold" to={`/handout/${soloId}`}>
            Handout
          </Link>
          <Button onClick={() => setOpen("pack")}>Loop pack …</Button>
          <span className="ml-auto self-center text-[13px] text-ink-3 max-sm:hidden">
            <Key>↑</Key> <Key>↓</Key> lines <Key>←</Key> <Key>→</Key> order
          </span>
        </div>
      </div>
      {open === "line" && <LineDialog line={line} onClose={close} />}
      {open === "remark" && <RemarkDialog remark={remark} line={line} onClose={close} />}
      {open === "pack" && <LoopPackDialog soloId={soloId} line={line} cautions={plan.cautions} onClose={close} />}
    </>
  );
}
