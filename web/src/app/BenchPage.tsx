import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { sentence } from "@/api/client";
import { NeckMap } from "@/features/fretboard/NeckMap";
import { ChordDialog } from "@/features/setup/ChordDialog";
import { GroundPanel } from "@/features/setup/GroundPanel";
import { putBar } from "@/features/setup/settle";
import { Transport } from "@/features/sound/Transport";
import { HEAR, usePlayer } from "@/features/sound/usePlayer";
import { Strip } from "@/features/timeline/Strip";
import { EarlierState } from "@/features/notes/EarlierState";
import { KeysDialog } from "@/features/notes/KeysDialog";
import { LeftOutButton, UndoClash } from "@/features/notes/LeftOutDialog";
import { keysOf } from "@/features/notes/keymap";
import { NoteMenu } from "@/features/notes/NoteMenu";
import { Panel } from "@/features/notes/Panel";
import { Tools } from "@/features/notes/Tools";
import { useWriting, writeAt } from "@/features/notes/useWriting";
import { zoomStep } from "@/score/axis";
import { choosePhrase, dismiss, goTo, openTool, placeBar, select, setCursor, useBench } from "@/score/bench";
import { closeSolo, hurry, openSolo, tryAgain } from "@/score/sending";
import { Button, Key, Menu } from "@/ui/parts";
import { Mark } from "./Mark";
import { setLook, useLook } from "./theme";

const STAGES = [
  ["ground", "Setup"],
  ["notes", "Notes"],
] as const;
const STYLES = ["default", "plain", "extended"] as const;
const FIRST_ZOOM = 127;

export function BenchPage() {
  const { soloId = "", stage = "notes" } = useParams();
  const [missing, setMissing] = useState<string | null>(null);
  const [params] = useSearchParams();
  const past = params.get("state");
  const wanted = past === null ? null : Number(past);
  const ready = useBench((state) => state.bench?.solo_id === soloId && state.past === wanted);
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

function Bench({ soloId, stage }: { soloId: string; stage: string }) {
  const bench = useBench((state) => state.bench);
  const earlier = useBench((state) => state.past);
  const trouble = useBench((state) => state.trouble);
  const clash = useBench((state) => state.clash !== null);
  const look = useLook();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const [pxPerS, setZoom] = useState(() => Number(params.get("zoom")) || FIRST_ZOOM);
  const [keys, setKeys] = useState(false);
  const [chord, setChord] = useState<{ id: string; bar: number } | null>(null);
  const player = usePlayer(soloId);
  const strip = useRef<HTMLDivElement>(null);

  // The address says where you are, so that any view can be linked.
  useEffect(() => {
    const at = params.get("at");
    const span = params.get("span")?.split("-to-").map(Number);
    if (at !== null) setCursor({ tick: Number(at), string: Number(params.get("string") ?? 1) });
    if (span?.length === 2) select({ from: span[0] ?? 0, to: span[1] ?? 0 });
    if (params.get("phrase") !== null) choosePhrase(params.get("phrase"));
    strip.current?.querySelector<HTMLElement>("[aria-label=Strip]")?.focus();
  }, []); // eslint-disable-line react-hooks/exhaustive-deps -- the address is read once, then written
  useEffect(() => {
    window.addEventListener("pagehide", hurry);
    return () => {
      window.removeEventListener("pagehide", hurry);
    };
  }, []);
  useEffect(() => {
    document.title = `${bench?.tune ?? "Solo"} · Usagi`;
  }, [bench?.tune]);

  const zoom = useCallback((by: number) => setZoom((now) => zoomStep(now, by)), []);
  const { loopPhrase, loopSpan, dropLoop, loop } = player;
  const phraseChosen = useCallback(
    (id: string) => {
      const state = useBench.getState();
      const chosen = state.elements.phrases[id];
      if (chosen === undefined) return;
      choosePhrase(id);
      select(null);
      setCursor({ tick: chosen.start });
      void loopPhrase(id, true);
    },
    [loopPhrase],
  );
  const loopHere = useCallback(() => {
    const state = useBench.getState();
    if (loop !== null) dropLoop();
    else if (state.selection !== null) void loopSpan(state.selection.from, state.selection.to, true);
    else {
      const there = Object.values(state.elements.phrases).find(
        (one) => one.start <= state.cursor.tick && state.cursor.tick < one.end,
      );
      if (there !== undefined) {
        choosePhrase(there.id);
        void loopPhrase(there.id, true);
      }
    }
  }, [loop, dropLoop, loopSpan, loopPhrase]);
  const keyLook = useMemo(() => keysOf(look), [look]);
  const onPhrase = useCallback(
    (by: 1 | -1) => {
      const state = useBench.getState();
      const phrases = Object.values(state.elements.phrases).sort((a, b) => a.start - b.start);
      const now = phrases.findIndex((one) => one.id === state.phrase);
      const next =
        now >= 0
          ? phrases[now + by]
          : by > 0
            ? phrases.find((one) => one.end > state.cursor.tick)
            : phrases.filter((one) => one.end <= state.cursor.tick).pop();
      if (next !== undefined) phraseChosen(next.id);
    },
    [phraseChosen],
  );
  const chordChosen = useCallback((id: string, bar: number) => setChord({ id, bar }), []);
  const barAt = useCallback((bar: number, second: number) => {
    placeBar(null);
    void putBar(bar, second, false);
  }, []);
  const showKeys = useCallback(() => setKeys(true), []);
  const { hear: heard, setHear } = player;
  const hear = useCallback(
    () => setHear(HEAR[(HEAR.indexOf(heard) + 1) % HEAR.length] ?? "recording"),
    [heard, setHear],
  );
  const { run, onKey } = useWriting({
    keys: keyLook,
    pedalArrows: look.pedalArrows,
    phrase: onPhrase,
    play: player.toggle,
    loop: loopHere,
    faster: player.faster,
    zoom,
    position: player.position,
    showKeys,
    hear,
    handSize: look.handSize,
  });
  if (bench === null) return null;
  const subtitle = [bench.solo.settings.player, bench.solo.settings.title].filter(Boolean).join(" · ");
  const take = (path: string) =>
    location.assign(`/api/solos/${soloId}/${path}?${new URLSearchParams(look.reader).toString()}`);
  const readOtherwise = (change: Partial<typeof look.reader>) => {
    setLook({ reader: { ...look.reader, ...change } });
    void openSolo(soloId);
  };
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[max-content_minmax(400px,1fr)_max-content_max-content] overflow-y-auto">
      <header className="flex min-h-[56px] flex-wrap items-center gap-x-6 border-b border-rule px-5 max-sm:gap-x-3">
        <Link to="/" className="flex items-center gap-4 font-bold">
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
        <nav aria-label="Stages" className="mx-auto flex gap-6 max-sm:hidden">
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
                  style={{ width: `${bench.progress[name] * 100}%` }}
                />
              </span>
            </Link>
          ))}
        </nav>
        <Questions />
        <LeftOutButton />
        <Status />
        <span className="contents max-sm:hidden">
          <Menu
            label="Export"
            items={[
              { name: "Solo document (JSON)", act: () => take("document.json") },
              { name: "Text tablature", act: () => take("tab.txt") },
              { name: "Chord chart (text)", act: () => take("chart.txt") },
              { name: "Sections (columns)", act: () => take("sections.tsv") },
            ]}
          />
        </span>
        <Menu
          label="View"
          items={[
            {
              name: look.theme === "day" ? "Dark" : "Light",
              act: () => setLook({ theme: look.theme === "day" ? "slate" : "day" }),
            },
            {
              name: look.flipStrings ? "String 1 on top" : "String 1 at the bottom",
              act: () => setLook({ flipStrings: !look.flipStrings }),
            },
            ...STYLES.filter((style) => style !== look.reader.style).map((style) => ({
              name: `Degrees ${style === "default" ? "by the chord" : style}`,
              act: () => readOtherwise({ style }),
            })),
            {
              name: look.reader.names === "letters" ? "Names in syllables" : "Names in letters",
              act: () => readOtherwise({ names: look.reader.names === "letters" ? "syllables" : "letters" }),
            },
            {
              name: look.reader.school === "a" ? "Count 1 & a, 1 la li" : "Count 1 trip let, 1 2 3",
              act: () => readOtherwise({ school: look.reader.school === "a" ? "b" : "a" }),
            },
            {
              name: look.mirrorHand ? "Hand block at the left" : "Hand block at the right",
              act: () => setLook({ mirrorHand: !look.mirrorHand }),
            },
          ]}
        />
        <button type="button" className="flex items-center gap-1 max-sm:hidden" onClick={showKeys}>
          <Key>?</Key> keys
        </button>
      </header>
      <div ref={strip} className="relative min-h-0">
        <Strip
          pxPerS={pxPerS}
          onZoom={setZoom}
          onKey={onKey}
          onPhrase={phraseChosen}
          onChord={chordChosen}
          onBarAt={barAt}
          loop={loop}
          playhead={player.position}
          flipStrings={look.flipStrings}
          atNote={<NoteMenu />}
        />
        {bench.recording !== null && bench.recording.frames === null && (
          <p role="status" className="absolute left-28 top-28 bg-sheet px-4 py-2 text-[15px]">
            This document came without its sound. Drop its file on the shelf to add it.
          </p>
        )}
      </div>
      <div className="border-t border-rule bg-sheet">
        {trouble !== null && chord === null && !clash && (
          <div role="alert" className="flex items-center gap-4 border-l-4 border-doubt bg-paper px-4 py-2">
            <p className="font-bold">{trouble}</p>
            <Trouble />
          </div>
        )}
        {stage === "ground" ? (
          <div className="grid h-[262px]">
            <GroundPanel player={player} />
          </div>
        ) : (
          <div className="grid min-h-[150px] grid-cols-1 gap-6 max-sm:min-h-0 px-5 py-2 lg:grid-cols-[minmax(0,1fr)_500px]">
            {earlier === null ? (
              <Tools player={player} handSize={look.handSize} onHandSize={sized}>
                <Panel run={run} keys={keyLook} />
              </Tools>
            ) : (
              <EarlierState soloId={soloId} state={earlier} />
            )}
            <NeckMap flip={look.flipStrings} mirrored={look.mirrorHand} numbers={look.numbers} onPlace={writePlace} />
          </div>
        )}
      </div>
      <Transport player={player} />
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
      <Address pxPerS={pxPerS} stage={stage} />
      <KeysDialog open={keys} onOpenChange={setKeys} look={look} onLook={setLook} />
      {stage !== "ground" && stage !== "notes" && (
        <Redirect to={() => void navigate(`/solos/${soloId}/notes`, { replace: true })} />
      )}
    </div>
  );
}

const sized = (handSize: "small" | "usual" | "large"): void => setLook({ handSize });
const writePlace = (place: Parameters<typeof writeAt>[0]): void => {
  writeAt(place, false);
};

function Redirect({ to }: { to: () => void }) {
  useEffect(() => to(), []); // eslint-disable-line react-hooks/exhaustive-deps -- once
  return null;
}

/** Keeps the address up to date with what moves often, without drawing anything. */
function Address({ pxPerS, stage }: { pxPerS: number; stage: string }) {
  const cursor = useBench((state) => state.cursor);
  const selection = useBench((state) => state.selection);
  const phrase = useBench((state) => state.phrase);
  const past = useBench((state) => state.past);
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

/** Where the edits are. */
function Status() {
  const sending = useBench((state) => state.sending);
  const waiting = useBench((state) => state.waiting);
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
  const questions = useBench((state) => state.elements.questions);
  const open = Object.values(questions).filter((one) => one.answer === null);
  if (open.length === 0) return null;
  const go = () => {
    const { cursor } = useBench.getState();
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

function Trouble() {
  const sending = useBench((state) => state.sending);
  if (sending === "refused") return <Button onClick={tryAgain}>Try again</Button>;
  // What was refused was most often a key; the next one goes to the strip again.
  return (
    <Button
      quiet
      onClick={() => {
        dismiss();
        document.querySelector<HTMLElement>("[aria-label=Strip]")?.focus();
      }}
    >
      Close
    </Button>
  );
}
