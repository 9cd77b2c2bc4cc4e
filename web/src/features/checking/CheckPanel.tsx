import { useEffect, useRef, useState } from "react";
import { type Finding, findingInHand, type Group, listed, setChecking, useChecking } from "@/score/checking";
import { type Commands, perform } from "@/score/commands";
import { useDocument } from "@/score/document";
import { capIn, keysOf } from "@/score/keymap";
import { useLook } from "@/score/look";
import { COMPANIES, companyWords, type Hints } from "@/score/offers";
import { type Hear, playerNow, usePlaying } from "@/score/playing";
import { useDraft } from "@/ui/drafts";
import { KeptDraft } from "@/ui/InputDialog";
import { Button, Key } from "@/ui/parts";
import { useSend } from "@/ui/useSend";
import { Select } from "@/ui/Select";
import { drawn } from "@/ui/signs";
import { choose, leaveListening, listenToAll, takeUpAgain, waive } from "./checking";
import { CHECKING, type CheckingCommand } from "./commands";
import { Closer } from "./Closer";

const GROUPS: readonly Group[] = ["pitch", "bends", "onsets", "missing", "bars", "joins", "hand", "chords"];
const WAYS: readonly (readonly [Hear, string])[] = [
  ["turns", "bar by bar"],
  ["together", "both"],
  ["beside", "each ear"],
  ["recording", "recording"],
  ["writing", "writing"],
];

/** What does not agree, and the finding in hand drawn close. */
export function CheckPanel({ commands }: { commands: Commands }) {
  return (
    <div className="grid min-h-[255px] grid-cols-1 gap-6 px-5 py-2 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <section aria-label="Findings" className="flex min-h-0 min-w-0 flex-col">
        <Head />
        <List />
      </section>
      <section aria-label="Finding" className="min-w-0">
        <InHand commands={commands} />
      </section>
    </div>
  );
}

function Head() {
  const state = useChecking();
  const { check, group, waived, estimate, message } = state;
  const findings = check?.findings ?? [];
  const groups = GROUPS.map((name) => [name, findings.filter((one) => one.group === name).length] as const).filter(
    ([, count]) => count > 0,
  );
  const show = (next: Group | null, waivedNow = false) => {
    setChecking({ group: next, waived: waivedNow });
    choose(listed({ ...state, group: next, waived: waivedNow })[0]?.id ?? null);
  };
  const tab = (on: boolean) =>
    `border-b-2 leading-7 ${on ? "border-ink font-bold" : "border-transparent text-ink-2 hover:border-rule-2"}`;
  return (
    <div className="flex flex-col gap-1 pb-1">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 role="status" aria-label="Check" className="font-naming text-[20px] font-semibold">
          {check?.sentence ?? "Checking …"}
        </h2>
        <Listening />
        {message !== "" && (
          <p role="alert" className="font-bold text-doubt">
            {message}
          </p>
        )}
      </div>
      {estimate === null && (
        <div role="group" aria-label="Kinds" className="flex flex-wrap gap-x-4">
          <button
            type="button"
            aria-pressed={group === null && !waived}
            className={tab(group === null && !waived)}
            onClick={() => show(null)}
          >
            all
          </button>
          {groups.map(([name, count]) => (
            <button
              key={name}
              type="button"
              aria-pressed={group === name && !waived}
              className={tab(group === name && !waived)}
              onClick={() => show(name)}
            >
              {name} {count}
            </button>
          ))}
          {(check?.waived.length ?? 0) > 0 && (
            <button
              type="button"
              aria-pressed={waived}
              className={`ml-auto ${tab(waived)}`}
              onClick={() => show(null, true)}
            >
              waived {check?.waived.length}
            </button>
          )}
        </div>
      )}
    </div>
  );
}

/** Listening to the whole solo: asked for, under way, done. */
function Listening() {
  const recording = useDocument((state) => state.bench?.recording);
  const { check, estimate } = useChecking();
  const [company, setCompany] = useState<Hints["company"]>("not said");
  if (recording?.frames == null || check === null) return null;
  if (estimate !== null)
    return (
      <span className="flex items-center gap-2">
        <progress aria-label="Listening" value={estimate.share} className="h-3 w-40 accent-[var(--ink)]" />
        <span className="text-ink-2">
          {estimate.state === "waiting" ? "waiting for a worker" : `heard to ${Math.round(estimate.share * 100)} %`}
        </span>
        <Button quiet size="small" onClick={leaveListening}>
          Cancel
        </Button>
      </span>
    );
  const again = check.listened >= 1;
  return (
    <span className="flex flex-wrap items-center gap-2">
      <Button strong={!again} quiet={again} size="small" onClick={() => void listenToAll(company)}>
        {again ? "Listen again" : "Listen to the whole solo"}
      </Button>
      <Select
        small
        label="Who plays"
        options={COMPANIES.map((value) => ({ value, words: companyWords(value) }))}
        value={company}
        onChoose={(value) => setCompany(value as Hints["company"])}
      />
    </span>
  );
}

function List() {
  const state = useChecking();
  const list = listed(state);
  const box = useRef<HTMLUListElement>(null);
  useEffect(() => {
    box.current?.querySelector("[aria-current=true]")?.scrollIntoView({ block: "nearest" });
  }, [state.chosen]);
  if (state.check === null) return null;
  if (list.length === 0)
    return (
      <p className="py-4 text-[16px] text-ink-2">
        {state.check.listened === 0
          ? "Bars, joins, the neck and the hand agree. Listen to the solo, and pitches, bends and onsets are held against the sound."
          : "What is written agrees with itself and with what is heard."}
      </p>
    );
  return (
    <ul ref={box} aria-label="Findings" className="max-h-[171px] min-h-0 overflow-y-auto border-t border-rule">
      {list.map((finding) => (
        <li key={finding.id} aria-current={finding.id === state.chosen}>
          <button
            type="button"
            className={`grid w-full grid-cols-[74px_minmax(0,1fr)_max-content] items-baseline gap-2 border-b border-rule border-l-4 px-2 py-[6px] text-left ${finding.id === state.chosen ? "border-l-pick bg-paper" : "border-l-transparent hover:bg-paper"}`}
            onClick={() => choose(finding.id)}
          >
            <span className="font-bold">{finding.bar}</span>
            <span>
              {drawn(finding.says)}
              {finding.reason !== "" && <span className="text-ink-2"> · {finding.reason}</span>}
            </span>
            <span className="text-[14px] text-ink-2">{finding.band}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

function InHand({ commands }: { commands: Commands }) {
  const state = useChecking();
  const finding = findingInHand(state);
  if (finding === null) return null;
  return (
    <div className="flex flex-col gap-1">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h2 className="font-naming text-[20px] font-semibold">{finding.title}</h2>
        <p className="text-[16px]">{drawn(finding.says)}</p>
        <span className="text-ink-2">{finding.band}</span>
      </div>
      {state.close !== null && <Closer close={state.close} />}
      {finding.waiver !== "" ? (
        <div className="flex flex-wrap items-center gap-3">
          <p>Waived{finding.reason === "" ? "" : `: ${finding.reason}`}.</p>
          <Button onClick={() => void takeUpAgain(finding)}>Take it up again</Button>
        </div>
      ) : state.waiving ? (
        <Waive key={finding.id} finding={finding} />
      ) : (
        <div className="flex flex-wrap items-center gap-3">
          <Act commands={commands} name="hear both" strong>
            Hear both
          </Act>
          {finding.mend !== "" && (
            <Act commands={commands} name="mend finding">
              {drawn(finding.mend)}
            </Act>
          )}
          <Act commands={commands} name="waive finding">
            Waive …
          </Act>
          <Act commands={commands} name="next finding" quiet>
            next
          </Act>
        </div>
      )}
      <Ways />
    </div>
  );
}

function Act({
  commands,
  name,
  strong,
  quiet,
  children,
}: {
  commands: Commands;
  name: CheckingCommand;
  strong?: boolean;
  quiet?: boolean;
  children: string;
}) {
  const keys = keysOf(useLook());
  const command = CHECKING[name];
  return (
    <Button
      size="small"
      {...(strong === true ? { strong } : {})}
      {...(quiet === true ? { quiet } : {})}
      title={command.says}
      onClick={() => perform(command)}
    >
      {children}{" "}
      {capIn(commands, command, keys).map((cap) => (
        <Key key={cap}>{cap}</Key>
      ))}
    </Button>
  );
}

/** How what loops is heard: A against B. */
function Ways() {
  const hear = usePlaying((state) => state.hear);
  const sounds = useDocument(({ bench }) => bench?.recording != null);
  if (!sounds) return null;
  return (
    <div role="group" aria-label="Hear" className="flex flex-wrap items-baseline gap-x-3 text-[14px]">
      <span className="text-ink-2">hear</span>
      {WAYS.map(([value, words]) => (
        <button
          key={value}
          type="button"
          aria-pressed={hear === value}
          className={`border-b-2 ${hear === value ? "border-ink font-bold" : "border-transparent text-ink-2"}`}
          onClick={() => playerNow()?.setHear(value)}
        >
          {words}
        </button>
      ))}
    </div>
  );
}

function Waive({ finding }: { finding: Finding }) {
  const draft = useDraft(`waiver ${finding.id}`, { reason: "" });
  const leave = () => {
    draft.drop();
    setChecking({ waiving: false });
  };
  const { busy, failed, send } = useSend(() => waive(finding, draft.value.reason), draft.drop);
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
    >
      <label className="flex items-center gap-2 font-bold text-ink-2">
        Let it stand, because
        <input
          autoFocus
          maxLength={200}
          value={draft.value.reason}
          placeholder="he bends it flat on purpose"
          className="h-9 w-72 rounded-[4px] border border-rule-2 bg-sheet px-2 font-normal text-ink placeholder:text-ink-3"
          onChange={(event) => draft.set({ reason: event.target.value })}
          onKeyDown={(event) => {
            if (event.key === "Escape") setChecking({ waiving: false });
          }}
        />
      </label>
      <Button strong size="small" type="submit" disabled={busy}>
        Waive
      </Button>
      <Button quiet size="small" onClick={leave}>
        Cancel
      </Button>
      <KeptDraft draft={draft} />
      {failed !== null && (
        <p role="alert" className="w-full font-bold text-doubt">
          {failed}
        </p>
      )}
    </form>
  );
}
