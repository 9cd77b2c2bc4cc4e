import {
  inView,
  type PhraseRead,
  type Reading,
  readingInHand,
  setAnalysing,
  type Tab,
  useAnalysing,
} from "@/score/analysis";
import { type Commands, perform } from "@/score/commands";
import { useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { capIn, keysOf } from "@/score/keymap";
import { useLook } from "@/score/look";
import { hasDraft, useDraft } from "@/ui/drafts";
import { KeptDraft } from "@/ui/InputDialog";
import { Button, Key } from "@/ui/parts";
import { useSend } from "@/ui/useSend";
import { drawn } from "@/ui/signs";
import { Select } from "@/ui/Select";
import { cutSuggested, giveRole, hear, keepWords, layOver, pickReading } from "./analysis";
import { ANALYSIS, type AnalysisCommand } from "./commands";
import { ReadingNeck } from "./ReadingNeck";

const ROLES = [
  "chord tone",
  "anticipation",
  "enclosure",
  "passing",
  "approach",
  "pedal",
  "blue",
  "tension",
  "scale",
  "outside",
] as const;
const TABS: readonly Tab[] = ["readings", "strong beats", "motifs", "feel"];

/** The phrase at the cursor: told, read, and lying on the neck. */
export function AnalysisPanel({ commands }: { commands: Commands }) {
  const state = useAnalysing();
  const { read, tab, chosen, why, message } = state;
  const tick = useCursor((cursor) => cursor.cursor.tick);
  const phrase = inView(state, tick);
  const reading = readingInHand(phrase, chosen);
  if (phrase === null)
    return (
      <p role="status" aria-label="Analysis" className="min-h-[263px] px-5 py-4 text-[16px] text-ink-2">
        {message !== ""
          ? message
          : read === null
            ? "Reading …"
            : "Nothing is written yet. Write notes, and every phrase is read."}
      </p>
    );
  return (
    <div className="grid min-h-[263px] grid-cols-1 gap-6 px-5 py-2 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.15fr)_minmax(0,1fr)]">
      <section aria-label="Phrase" className="max-h-[251px] min-w-0 overflow-y-auto">
        {why === null ? <Told phrase={phrase} commands={commands} /> : <Why commands={commands} />}
      </section>
      <section aria-label="Readings" className="flex max-h-[251px] min-h-0 min-w-0 flex-col">
        <div role="group" aria-label="What is shown" className="flex flex-wrap gap-x-4 pb-1">
          {TABS.map((name) => (
            <button
              key={name}
              type="button"
              aria-pressed={tab === name}
              className={`border-b-2 leading-7 ${tab === name ? "border-ink font-bold" : "border-transparent text-ink-2 hover:border-rule-2"}`}
              onClick={() => setAnalysing({ tab: name })}
            >
              {name}
            </button>
          ))}
        </div>
        {tab === "readings" && <Readings phrase={phrase} inHand={reading} />}
        {tab === "strong beats" && <StrongBeats phrase={phrase} />}
        {tab === "motifs" && <Motifs phrase={phrase} />}
        {tab === "feel" && <FeelNumbers phrase={phrase} />}
      </section>
      <section aria-label="On the neck" className="min-w-0">
        <ReadingNeck phrase={phrase} reading={reading} tick={tick} />
      </section>
    </div>
  );
}

function Told({ phrase, commands }: { phrase: PhraseRead; commands: Commands }) {
  const { telling, read, marked } = useAnalysing();
  const offers = read?.offered.filter((one) => one.start < phrase.end && one.end > phrase.start) ?? [];
  return (
    <div className="flex flex-col gap-2">
      <h2 className="font-naming text-[20px] font-semibold">
        {phrase.name || (marked !== null ? "What is marked" : phrase.id === null ? "The solo" : "Phrase")}
      </h2>
      {telling && phrase.id !== null ? (
        <Words key={phrase.id} phrase={phrase} />
      ) : (
        <>
          {phrase.words !== "" && (
            <p aria-label="In my words" className="border-l-4 border-pick pl-3 text-[16px]">
              {phrase.words}
            </p>
          )}
          {(phrase.words === "" || phrase.outdated) && (
            <p aria-label="Told" className={`text-[16px] ${phrase.words === "" ? "" : "text-ink-2"}`}>
              {drawn(phrase.says)}
            </p>
          )}
          {phrase.id !== null && hasDraft(draftOf(phrase)) && (
            <p role="status" aria-label="Draft" className="text-[15px] text-doubt">
              What you typed for this phrase is kept and not saved yet: “In my words” goes on with it.
            </p>
          )}
          <p className="text-[15px] text-ink-2">{phrase.feel.says}</p>
        </>
      )}
      {offers.map((offer) => (
        <p key={`${offer.start} ${offer.symbol}`} className="text-[15px]">
          {drawn(offer.says)}.{" "}
          <Button size="small" onClick={() => void layOver(offer)}>
            Lay {drawn(offer.symbol)} over it
          </Button>
        </p>
      ))}
      {!telling && (
        <div className="flex flex-wrap items-center gap-2">
          <Act commands={commands} name="why">
            Why?
          </Act>
          {phrase.id !== null && (
            <Act commands={commands} name="in my words">
              In my words …
            </Act>
          )}
          <Button size="small" onClick={() => hear(phrase.start, phrase.end)}>
            Hear it
          </Button>
          <Button
            size="small"
            title="the writing over the chords, other changes where they are laid"
            onClick={() => hear(phrase.start, phrase.end, true)}
          >
            Over the chords
          </Button>
          {(read?.outside ?? 0) > 0 && (
            <Button size="small" title="at rests, behind long notes, with the form" onClick={() => void cutSuggested()}>
              Suggest phrases
            </Button>
          )}
        </div>
      )}
    </div>
  );
}

const draftOf = (phrase: PhraseRead): string => `words ${phrase.id ?? ""}`;

function Words({ phrase }: { phrase: PhraseRead }) {
  const draft = useDraft(draftOf(phrase), { words: phrase.words === "" ? phrase.says : phrase.words });
  const leave = () => setAnalysing({ telling: false });
  const stored = () => {
    draft.drop();
    leave();
  };
  const keeping = useSend(() => keepWords(phrase, draft.value.words), stored);
  const removing = useSend(() => keepWords(phrase, ""), stored);
  const failed = keeping.failed ?? removing.failed;
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        keeping.send();
      }}
    >
      <label className="flex flex-col gap-1 font-bold text-ink-2">
        In my words
        <textarea
          autoFocus
          rows={4}
          maxLength={2_000}
          value={draft.value.words}
          className="rounded-[4px] border border-rule-2 bg-sheet p-2 text-[16px] font-normal text-ink"
          onChange={(event) => draft.set({ words: event.target.value })}
          onKeyDown={(event) => {
            if (event.key === "Escape") leave();
          }}
        />
      </label>
      <KeptDraft draft={draft} />
      {failed !== null && (
        <p role="alert" className="font-bold text-doubt">
          {failed}
        </p>
      )}
      <div className="flex gap-2">
        <Button strong size="small" type="submit" disabled={keeping.busy}>
          Keep
        </Button>
        <Button quiet size="small" onClick={stored}>
          Cancel
        </Button>
        {phrase.words !== "" && (
          <Button quiet size="small" disabled={removing.busy} onClick={removing.send}>
            Delete my words
          </Button>
        )}
      </div>
    </form>
  );
}

/** The chain of facts behind the label of the note at the cursor, each with its rule. */
function Why({ commands }: { commands: Commands }) {
  const why = useAnalysing((state) => state.why);
  const view = useDocument((state) => state.views[why?.note ?? ""]);
  if (why === null) return null;
  return (
    <div className="flex flex-col gap-2">
      <div className="flex items-center justify-between gap-2">
        <h2 className="font-naming text-[20px] font-semibold">
          Why {view === undefined || view.degree === "" ? "this note" : drawn(view.degree)}?
        </h2>
        <Act commands={commands} name="why">
          Back
        </Act>
      </div>
      <ol aria-label="Why" className="flex list-decimal flex-col gap-1 pl-6 text-[16px]">
        {why.facts.map((fact) => (
          <li key={fact.says}>
            {drawn(fact.says)}{" "}
            <a
              className="text-[14px] text-ink-2 underline underline-offset-2"
              href={`/help/music#${fact.rule}`}
              target="_blank"
              rel="noreferrer"
            >
              rule
            </a>
          </li>
        ))}
      </ol>
      <GivenRole note={why.note} shape={view?.shape ?? "none"} />
    </div>
  );
}

/** The teacher's role over the computed one. */
function GivenRole({ note, shape }: { note: string; shape: string }) {
  const given = useDocument((state) =>
    Object.values(state.elements.choices).find((one) => one.kind === "role" && one.note === note),
  );
  if (!ROLES.some((role) => role === shape)) return null;
  return (
    <div className="flex flex-wrap items-center gap-2">
      <span className="text-ink-2">I call it</span>
      <Select
        small
        label="I call it"
        options={ROLES.map((role) => ({ value: role, words: role }))}
        value={shape}
        onChoose={(role) => void giveRole(note, ROLES.find((one) => one === role) ?? null)}
      />
      {given?.kind === "role" && (
        <label className="flex items-center gap-2 text-ink-2">
          to the
          <input
            key={`${note} ${given.goal ?? ""}`}
            aria-label="Goal"
            maxLength={8}
            defaultValue={given.goal ?? ""}
            placeholder="3"
            className="h-8 w-16 rounded-[4px] border border-rule-2 bg-sheet px-2 text-ink placeholder:text-ink-3"
            onKeyDown={(event) => {
              if (event.key === "Enter") event.currentTarget.blur();
            }}
            onBlur={(event) => {
              const goal = event.currentTarget.value.trim();
              if (goal !== (given.goal ?? "")) void giveRole(note, given.role, goal === "" ? null : goal);
            }}
          />
        </label>
      )}
      {given !== undefined && (
        <Button quiet size="small" onClick={() => void giveRole(note, null)}>
          Leave it to the program
        </Button>
      )}
    </div>
  );
}

function Readings({ phrase, inHand }: { phrase: PhraseRead; inHand: Reading | null }) {
  if (phrase.readings.length === 0)
    return <p className="py-2 text-ink-2">No scale, chord, grip or pattern explains it.</p>;
  return (
    <>
      <ul aria-label="Readings" className="min-h-0 overflow-y-auto border-t border-rule">
        {phrase.readings.map((reading) => (
          <li key={reading.key} aria-current={reading.key === inHand?.key}>
            <button
              type="button"
              aria-pressed={reading.picked}
              title="Pick this reading, or let it go"
              className={`grid w-full grid-cols-[68px_minmax(0,1fr)_64px_76px] items-center gap-2 border-b border-rule border-l-4 px-2 py-[5px] text-left ${reading.picked ? "border-l-pick" : "border-l-transparent"} ${reading.key === inHand?.key ? "bg-paper" : "hover:bg-paper"}`}
              onClick={() => {
                setAnalysing({ chosen: reading.key });
                void pickReading(reading);
              }}
              onMouseEnter={() => setAnalysing({ chosen: reading.key })}
              onFocus={() => setAnalysing({ chosen: reading.key })}
            >
              <span className="text-[14px] text-ink-2">{reading.kind}</span>
              <span className="truncate font-bold">{drawn(reading.title)}</span>
              <span aria-hidden className="block h-[10px] bg-tint">
                <span className="block h-full bg-ink" style={{ width: `${(100 * reading.covers) / reading.of}%` }} />
              </span>
              <span className="text-[14px]">
                {reading.covers} of {reading.of}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <p aria-label="Reading in hand" className="shrink-0 truncate pt-1 text-[14px] text-ink-2">
        {inHand === null
          ? "A click picks a reading: it gets the blue edge. The others stay."
          : drawn(
              [inHand.degrees.join(" "), inHand.left, inHand.also === "" ? "" : `also ${inHand.also}`]
                .filter(Boolean)
                .join(" · "),
            )}
      </p>
    </>
  );
}

function StrongBeats({ phrase }: { phrase: PhraseRead }) {
  const { strong, weak } = phrase;
  const views = useDocument((state) => state.views);
  return (
    <div className="flex min-h-0 flex-col gap-2 overflow-y-auto border-t border-rule pt-2 text-[16px]">
      <p>
        {strong.of === 0
          ? "No note lies on a beat."
          : `${strong.hit} of ${strong.of} beats that sound carry a chord tone.`}
      </p>
      {strong.notes.length > 0 && (
        <p className="text-[14px] text-ink-2">
          At {[...new Set(strong.notes.map((id) => views[id]?.where ?? ""))].filter(Boolean).join(", ")}.
        </p>
      )}
      <p>
        {weak.of === 0
          ? "There are no approach notes."
          : `${weak.hit} of ${weak.of} approach notes start off the beat.`}
      </p>
      <ol aria-label="Tension of each beat" className="flex h-[76px] items-end gap-[3px]">
        {phrase.pulses.map((pulse) => (
          <li
            key={pulse.tick}
            title={`${pulse.pull.toFixed(1)}${pulse.release ? ", released here" : ""}`}
            className={`w-4 ${pulse.release ? "bg-pick" : "bg-ink-3"}`}
            style={{ height: `${6 + 22 * pulse.pull}px` }}
          >
            <span className="sr-only">{pulse.pull.toFixed(1)}</span>
          </li>
        ))}
      </ol>
      <p className="text-[14px] text-ink-2">
        Tension of each beat: low is chord tones, high is outside; blue is where it is released.
      </p>
    </div>
  );
}

function Motifs({ phrase }: { phrase: PhraseRead }) {
  const paths = useAnalysing((state) => state.read?.paths);
  const own = (paths ?? []).filter(
    ({ kind, tick, end }) => kind === "motif" && tick < phrase.end && end > phrase.start,
  );
  if (own.length === 0) return <p className="border-t border-rule py-2 text-ink-2">No figure comes again here.</p>;
  return (
    <ul aria-label="Motifs" className="min-h-0 overflow-y-auto border-t border-rule">
      {own.map((path) => (
        <li key={`${path.tick} ${path.end}`} className="flex flex-wrap items-center gap-2 border-b border-rule py-1">
          <span className="min-w-0 flex-1">{drawn(path.says)}</span>
          <Button size="small" onClick={() => hear(path.tick, path.end)}>
            Hear it here
          </Button>
          {path.before !== null && path.before !== undefined && (
            <Button size="small" onClick={() => hear(path.before?.[0] ?? 0, path.before?.[1] ?? 0)}>
              Hear it before
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}

function FeelNumbers({ phrase }: { phrase: PhraseRead }) {
  const { feel } = phrase;
  const views = useDocument((state) => state.views);
  return (
    <div className="min-h-0 overflow-y-auto border-t border-rule pt-2 text-[16px]">
      <p>{feel.says}</p>
      <p className="text-ink-2">{feel.density.toFixed(1)} onsets a second.</p>
      {feel.notes.length > 0 && (
        <table className="mt-2 text-[15px]">
          <thead>
            <tr className="text-left text-ink-2">
              <th className="pr-6 font-normal">at</th>
              <th className="pr-6 font-normal">behind</th>
              <th className="font-normal">of the beat</th>
            </tr>
          </thead>
          <tbody>
            {feel.notes.map((one) => (
              <tr key={one.note} className={one.off ? "font-bold text-doubt" : ""}>
                <td className="pr-6">{views[one.note]?.where}</td>
                <td className="pr-6">{one.ms.toFixed(0)} ms</td>
                <td>{one.percent.toFixed(0)} %</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {feel.bends.map((one) => (
        <p key={one.note} className="text-[15px]">
          Bend at {views[one.note]?.where}:{" "}
          {one.arrives_ms == null ? "does not stay on its target" : `arrives after ${one.arrives_ms.toFixed(0)} ms`}
          {one.early_ms == null ? "" : `, ${one.early_ms.toFixed(0)} ms early`}.
        </p>
      ))}
    </div>
  );
}

function Act({ commands, name, children }: { commands: Commands; name: AnalysisCommand; children: string }) {
  const keys = keysOf(useLook());
  const command = ANALYSIS[name];
  return (
    <Button size="small" title={command.says} onClick={() => perform(command)}>
      {children}{" "}
      {capIn(commands, command, keys).map((cap) => (
        <Key key={cap}>{cap}</Key>
      ))}
    </Button>
  );
}
