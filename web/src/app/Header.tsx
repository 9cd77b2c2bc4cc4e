import { Link, useNavigate } from "react-router";
import { ENDINGS } from "@/features/exchange/importing";
import { LeftOutButton } from "@/features/notes/LeftOutDialog";
import { useChecking } from "@/score/checking";
import { perform } from "@/score/commands";
import { atHand, goTo } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { useLook } from "@/score/look";
import { useSaving } from "@/score/saving";
import { openKeys, openTaking, openTool } from "@/score/shown";
import { Key, Menu } from "@/ui/parts";
import { Select } from "@/ui/Select";
import { useFile } from "@/ui/useFile";
import { MENUS } from "./commands";
import { Mark } from "./Mark";

const STAGES = [
  ["ground", "Setup"],
  ["notes", "Notes"],
  ["check", "Check"],
  ["analysis", "Analysis"],
  ["phrases", "Phrases"],
  ["teach", "Teach"],
] as const;

/** What is open, its stages, where its edits are, and the menus. */
export function Header({ soloId, stage }: { soloId: string; stage: string }) {
  const bench = useDocument((state) => state.bench);
  const earlier = useDocument((state) => state.past);
  const checked = useChecking((state) => state.check?.done ?? 0);
  if (bench === null) return null;
  const done = { ...bench.progress, check: checked };
  const subtitle = [bench.solo.settings.player, bench.solo.settings.title].filter(Boolean).join(" · ");
  return (
    <header className="flex min-h-[56px] flex-wrap items-center gap-x-4 xl:flex-nowrap xl:whitespace-nowrap border-b border-rule px-5 max-sm:gap-x-3">
      <Link to="/" className="flex items-center gap-3 font-bold">
        <Mark />
        Shelf
      </Link>
      <div className="min-w-[9rem] max-w-[28rem] max-lg:flex-1">
        <h1 className="truncate font-naming text-[21px] font-semibold leading-6">{bench.tune}</h1>
        <p className="truncate text-[14px] leading-4 text-ink-2">
          {subtitle}
          {bench.tables.disputes.length > 0 && <span className="font-bold text-doubt"> · disputed</span>}
        </p>
      </div>
      <nav aria-label="Stages" className="mx-auto flex gap-5 max-sm:hidden">
        {STAGES.map(([name, word]) => (
          <Link
            key={name}
            to={`/solos/${soloId}/${name}${earlier === null ? "" : `?state=${earlier}`}`}
            aria-current={stage === name ? "page" : undefined}
            className={`pt-1 text-[16px] font-bold leading-8 ${stage === name ? "" : "text-ink-2"}`}
          >
            {word}
            <span aria-hidden className={`block bg-tint ${stage === name ? "h-[5px]" : "h-[3px]"}`}>
              <span
                className={`block h-full ${stage === name ? "bg-ink" : "bg-ink-3"}`}
                style={{ width: `${done[name] * 100}%` }}
              />
            </span>
          </Link>
        ))}
      </nav>
      <PhoneStages soloId={soloId} stage={stage} />
      <Questions />
      <LeftOutButton />
      <Status />
      <span className="contents max-sm:hidden">
        <CommandMenu label="Export" />
        <ImportButton />
      </span>
      <CommandMenu label="View" />
      <button type="button" className="flex items-center gap-1 max-sm:hidden" onClick={() => openKeys(true)}>
        <Key>?</Key> keys
      </button>
    </header>
  );
}

/** On a phone the stages are a list; Setup needs a wider screen. */
function PhoneStages({ soloId, stage }: { soloId: string; stage: string }) {
  const navigate = useNavigate();
  return (
    <span className="sm:hidden">
      <Select
        small
        label="Stage"
        options={STAGES.filter(([name]) => name !== "ground").map(([value, words]) => ({ value, words }))}
        value={stage}
        onChoose={(name) => void navigate(`/solos/${soloId}/${name}`)}
      />
    </span>
  );
}

/** A file of another program, put into this solo. */
function ImportButton() {
  const past = useDocument((state) => state.past);
  const [field, choose] = useFile("File to import", ENDINGS, openTaking);
  if (past !== null) return null;
  return (
    <>
      {field}
      <button type="button" className="rounded-[4px] px-2 py-1 font-bold text-ink-2 hover:bg-sheet" onClick={choose}>
        Import
      </button>
    </>
  );
}

/** The commands of a menu that can be done now. */
function CommandMenu({ label }: { label: keyof typeof MENUS }) {
  useLook(); // labels say what a command would make of it
  const items = MENUS[label]
    .filter((command) => command.blocked?.() == null)
    .map((command) => ({ name: command.label?.() ?? command.name, act: () => perform(command) }));
  return <Menu label={label} items={items} />;
}

/** Where the edits are. */
function Status() {
  const sending = useSaving((state) => state.sending);
  const waiting = useSaving((state) => state.waiting);
  const words = {
    saved: "Saved",
    sending: "Saving …",
    away: waiting > 0 ? `Kept on this computer: ${waiting} to send` : "The server is away",
    refused: waiting > 0 ? `Not saved: ${waiting} waiting` : "Not saved",
  }[sending];
  return (
    <p
      role="status"
      aria-label="Saving"
      className={sending === "saved" || sending === "sending" ? "text-ink-2" : "font-bold text-doubt"}
    >
      {words}
    </p>
  );
}

function Questions() {
  const questions = useDocument((state) => state.elements.questions);
  const open = Object.values(questions).filter((one) => one.answer === null);
  if (open.length === 0) return null;
  const go = () => {
    const { cursor } = atHand();
    const next = open.sort((a, b) => a.start - b.start).find((one) => one.start > cursor.tick) ?? open[0];
    openTool("doubts");
    if (next !== undefined) goTo(next.start, next.notes[0]);
  };
  return (
    <button type="button" onClick={go} className="font-bold text-doubt">
      {open.length} open question{open.length > 1 ? "s" : ""}
    </button>
  );
}
