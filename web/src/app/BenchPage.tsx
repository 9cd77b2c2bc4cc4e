import { useCallback, useEffect, useLayoutEffect, useMemo, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { sentence } from "@/api/client";
import { NeckMap } from "@/features/fretboard/NeckMap";
import { EarlierState } from "@/features/notes/EarlierState";
import { UndoClash } from "@/features/notes/LeftOutDialog";
import { cutSuggested, followReading } from "@/features/analysis/analysis";
import { AnalysisPanel } from "@/features/analysis/AnalysisPanel";
import { followChecking } from "@/features/checking/checking";
import { CheckPanel } from "@/features/checking/CheckPanel";
import { followWriting } from "@/features/notes/listening";
import { followPhrases } from "@/features/phrases/phrases";
import { PhrasesPanel } from "@/features/phrases/PhrasesPanel";
import { NoteLine } from "@/features/notes/NoteLine";
import { NoteMenu } from "@/features/notes/NoteMenu";
import { OtherChangesDialog } from "@/features/notes/OtherChangesDialog";
import { NoteBars, Panel } from "@/features/notes/Panel";
import { Tools } from "@/features/notes/Tools";
import { writeAt } from "@/features/notes/writing";
import { ChordDialog } from "@/features/setup/ChordDialog";
import { GroundPanel } from "@/features/setup/GroundPanel";
import { putBar } from "@/features/setup/settle";
import { loopPhrase } from "@/features/sound/commands";
import { player } from "@/features/sound/player";
import { followPlan, practise } from "@/features/teach/plan";
import { TeachPanel } from "@/features/teach/TeachPanel";
import { Transport } from "@/features/sound/Transport";
import { LegendDialog } from "@/features/timeline/LegendDialog";
import { Strip } from "@/features/timeline/Strip";
import { choosePhrase, goTo, select, setCursor, useCursor } from "@/score/cursor";
import { openDocument, useDocument } from "@/score/document";
import type { Place } from "@/score/hand";
import { keysOf } from "@/score/keymap";
import { narrowZoom } from "@/score/layout";
import { useLook } from "@/score/look";
import { dismiss, useSaving } from "@/score/saving";
import { closeSolo, hurry, openSolo, tryAgain } from "@/score/sending";
import { askOtherChanges, FIRST_ZOOM, openStage, placeBar, useShown, zoomTo } from "@/score/shown";
import { goHome } from "@/ui/focus";
import { BottomSheet } from "@/ui/BottomSheet";
import { Button } from "@/ui/parts";
import { useNarrow } from "@/ui/useNarrow";
import { COMMANDS } from "./commands";
import { Header } from "./Header";
import { useKeyboard } from "./keyboard";
import { KeysDialog } from "./KeysDialog";
import { TakingDialogs } from "./TakingDialogs";

const STAGES: readonly string[] = ["ground", "notes", "check", "analysis", "phrases", "teach"];

export function BenchPage() {
  const { soloId = "", stage: named = "notes" } = useParams();
  const stage = named === "setup" ? "ground" : named; // its document is the ground
  const [missing, setMissing] = useState<string | null>(null);
  const [params] = useSearchParams();
  const past = params.get("state");
  const wanted = past === null ? null : Number(past);
  const ready = useDocument((state) => state.bench?.solo_id === soloId && state.past === wanted);
  useEffect(() => {
    openSolo(soloId, wanted).catch((fault: unknown) => setMissing(sentence(fault)));
    return closeSolo;
  }, [soloId, wanted]);
  if (missing !== null) {
    return (
      <main className="p-8">
        <p role="alert" className="text-[18px]">
          {missing}
        </p>
        <Link className="mt-4 block underline" to="/">
          Back to the shelf
        </Link>
      </main>
    );
  }
  return ready ? (
    <Bench key={`${soloId} ${past ?? ""}`} soloId={soloId} stage={stage} />
  ) : (
    <p className="p-8 text-ink-2">Opening the solo …</p>
  );
}

/** As usual; on a phone so that a bar and a half is in view. */
const firstZoom = (): number => {
  const { bench, grid } = openDocument();
  const bar = bench?.strip.bars.find(({ number }) => number >= 1);
  return (
    narrowZoom(window.innerWidth, bar === undefined ? 0 : grid.second(bar.end) - grid.second(bar.tick)) ?? FIRST_ZOOM
  );
};

/** Where the notes that a page shows stand; read once, then kept up to date by Address. */
const goToAddress = (params: URLSearchParams): void => {
  const at = params.get("at");
  const span = params.get("span")?.split("-to-").map(Number);
  zoomTo(Number(params.get("zoom")) || firstZoom());
  if (at !== null) setCursor({ tick: Number(at), string: Number(params.get("string") ?? 1) });
  const note = openDocument().elements.notes[params.get("note") ?? ""];
  if (note !== undefined) goTo(note.tick, note.id);
  if (span?.length === 2) select({ from: span[0] ?? 0, to: span[1] ?? 0 });
  if (params.get("phrase") !== null) choosePhrase(params.get("phrase"));
};

const barAt = (bar: number, second: number): void => {
  placeBar(null);
  void putBar(bar, second, false);
};
const closeOtherChanges = (): void => {
  askOtherChanges(null);
  dismiss();
};
const writePlace = (place: Place): void => writeAt(place);

function Bench({ soloId, stage }: { soloId: string; stage: string }) {
  const tune = useDocument((state) => state.bench?.tune ?? "");
  const soundless = useDocument(({ bench }) => bench?.recording != null && bench.recording.frames === null);
  const chartless = useDocument(({ bench }) => bench?.strip.chords.length === 0);
  const earlier = useDocument((state) => state.past);
  const look = useLook();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const [chord, setChord] = useState<{ id: string; bar: number } | null>(null);
  const keys = useMemo(() => keysOf(look), [look]);
  const setup = stage === "ground";
  const check = stage === "check" && earlier === null;
  const reads = stage === "analysis" && earlier === null;
  const cuts = stage === "phrases" && earlier === null;
  const teaches = stage === "teach" && earlier === null;
  const onKey = useKeyboard(keys, look.pedalArrows);

  useLayoutEffect(() => {
    goToAddress(params);
    goHome();
  }, []); // eslint-disable-line react-hooks/exhaustive-deps -- the address is read once, then written
  useEffect(() => player.open(soloId, earlier), [soloId, earlier]);
  useEffect(() => followWriting(), [soloId]);
  useEffect(() => (earlier === null ? followChecking() : undefined), [soloId, earlier]);
  useEffect(() => (earlier === null ? followReading() : undefined), [soloId, earlier]);
  useEffect(() => (earlier === null ? followPhrases() : undefined), [soloId, earlier]);
  useEffect(() => (earlier === null ? followPlan(params.get("line")) : undefined), [soloId, earlier]); // eslint-disable-line react-hooks/exhaustive-deps -- the line is read once
  useLayoutEffect(
    () =>
      openStage(
        check ? "check" : reads ? "analysis" : cuts ? "phrases" : teaches ? "teach" : setup ? "ground" : "notes",
      ),
    [check, reads, cuts, teaches, setup],
  );
  useEffect(() => {
    window.addEventListener("pagehide", hurry);
    return () => window.removeEventListener("pagehide", hurry);
  }, []);
  useEffect(() => {
    document.title = `${tune || "Solo"} · Usagi`;
  }, [tune]);
  const narrow = useNarrow();
  const asked = useShown((state) => state.otherChanges);
  const past = earlier === null ? null : <EarlierState soloId={soloId} state={earlier} />;
  const chordChosen = useCallback((id: string, bar: number) => setChord({ id, bar }), []);
  return (
    <div
      className={`grid h-full grid-cols-[minmax(0,1fr)] overflow-y-auto ${
        teaches
          ? "grid-rows-[max-content_minmax(360px,1fr)_max-content_max-content]"
          : setup
            ? "grid-rows-[max-content_190px_minmax(360px,1fr)_max-content]"
            : check || reads || cuts
              ? "grid-rows-[max-content_minmax(373px,1fr)_max-content_max-content]"
              : "grid-rows-[max-content_minmax(400px,1fr)_max-content_max-content]"
      }`}
    >
      <Header soloId={soloId} stage={stage} />
      {teaches ? (
        <TeachPanel soloId={soloId} />
      ) : (
        <div className="relative min-h-0">
          <Strip
            onKey={onKey}
            onPhrase={loopPhrase}
            onChord={chordChosen}
            onBarAt={barAt}
            position={player.position}
            flipStrings={look.flipStrings}
            low={setup}
            withSound={!check && !reads && !cuts}
            read={reads}
            atNote={<NoteMenu />}
          />
          {chartless && !setup && (
            <p className="absolute left-[124px] top-[76px] bg-paper px-1 text-[15px] text-ink-2 max-sm:left-9">
              No chart yet.{" "}
              <Link className="underline underline-offset-2" to={`/solos/${soloId}/ground`}>
                Write it in Setup
              </Link>
              , and the degrees follow.
            </p>
          )}
          {soundless && (
            <p role="status" className="absolute left-28 top-28 bg-sheet px-4 py-2 text-[15px]">
              This document came without its sound. Drop its file on the shelf to add it.
            </p>
          )}
        </div>
      )}
      <div className={`border-t border-rule bg-sheet ${setup ? "flex min-h-0 flex-col" : ""}`}>
        {chord === null && asked === null && <Trouble />}
        {(check || reads || cuts) && <NoteLine />}
        {setup ? (
          <div className="grid min-h-0 flex-1">
            <GroundPanel player={player} />
          </div>
        ) : check ? (
          <CheckPanel commands={COMMANDS} />
        ) : reads ? (
          <AnalysisPanel commands={COMMANDS} />
        ) : cuts ? (
          <PhrasesPanel
            onSuggest={() => void cutSuggested()}
            onFind={(degrees) => void navigate(`/licks?text=${encodeURIComponent(degrees)}`)}
            onOpen={(solo, note) => void navigate(`/solos/${solo}/phrases?note=${note}`)}
            onMelody={(solo) => void navigate(`/solos/${solo}/notes`)}
            onPractise={() => void practise()}
          />
        ) : teaches ? null : narrow ? (
          <div className="px-4 py-2">{earlier === null ? <Panel bars={false} /> : past}</div>
        ) : (
          <div className="grid min-h-[150px] grid-cols-1 gap-6 px-5 py-2 lg:grid-cols-[minmax(0,1fr)_500px]">
            {earlier === null ? (
              <Tools player={player}>
                <Panel bars />
              </Tools>
            ) : (
              past
            )}
            <NeckMap flip={look.flipStrings} mirrored={look.mirrorHand} numbers={look.numbers} onPlace={writePlace} />
          </div>
        )}
      </div>
      <Transport tools={earlier === null && !setup && !teaches ? <PhoneTools /> : undefined} />
      {chord !== null && (
        <ChordDialog
          chordId={chord.id}
          bar={chord.bar}
          onClose={() => {
            setChord(null);
            dismiss();
          }}
        />
      )}
      <UndoClash />
      <Address stage={stage} />
      <TakingDialogs soloId={soloId} />
      <KeysDialog />
      <LegendDialog />
      {asked !== null && <OtherChangesDialog span={asked} onClose={closeOtherChanges} />}
      {!STAGES.includes(stage) && <Redirect to={() => void navigate(`/solos/${soloId}/notes`, { replace: true })} />}
    </div>
  );
}

/** The tools of a phone come from below. */
function PhoneTools() {
  return (
    <BottomSheet title="Tools" trigger="Tools">
      <Tools player={player}>
        <NoteBars />
      </Tools>
      <p className="mt-4 border-t border-rule pt-3 text-[14px] text-ink-2">
        A phone leaves out the hand block, the neck, Setup, exports and the list of keys. A wider screen has them.
      </p>
    </BottomSheet>
  );
}

function Redirect({ to }: { to: () => void }) {
  useEffect(() => to(), []); // eslint-disable-line react-hooks/exhaustive-deps -- once
  return null;
}

/** Keeps the address up to date with what moves often, without drawing anything. */
function Address({ stage }: { stage: string }) {
  const pxPerS = useShown((state) => state.pxPerS);
  const cursor = useCursor((state) => state.cursor);
  const selection = useCursor((state) => state.selection);
  const phrase = useCursor((state) => state.phrase);
  const past = useDocument((state) => state.past);
  useEffect(() => {
    const soon = setTimeout(() => {
      const next = new URLSearchParams({
        at: String(cursor.tick),
        string: String(cursor.string),
        zoom: String(pxPerS),
      });
      if (selection !== null) next.set("span", `${selection.from}-to-${selection.to}`);
      if (phrase !== null) next.set("phrase", phrase);
      if (past !== null) next.set("state", String(past));
      // Past the router, which would go back to a stage that is just being left.
      history.replaceState(history.state, "", `${location.pathname}?${next.toString()}`);
    }, 250);
    return () => clearTimeout(soon);
  }, [cursor, selection, phrase, past, pxPerS, stage]);
  return null;
}

/** What went wrong, and what to do about it. */
function Trouble() {
  const trouble = useSaving((state) => (state.clash === null ? state.trouble : null));
  const refused = useSaving((state) => state.sending === "refused");
  if (trouble === null) return null;
  // What was refused was most often a key; the next one goes to the strip again.
  const close = () => {
    dismiss();
    goHome();
  };
  return (
    <div role="alert" className="flex items-center gap-4 border-l-4 border-doubt bg-paper px-4 py-2">
      <p className="font-bold">{trouble}</p>
      {refused ? (
        <Button onClick={tryAgain}>Try again</Button>
      ) : (
        <Button quiet onClick={close}>
          Close
        </Button>
      )}
    </div>
  );
}
