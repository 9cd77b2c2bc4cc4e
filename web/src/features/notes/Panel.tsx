import { useState } from "react";
import { hint, noteAtCursor, pickedNote, select, setEntry, useBench } from "@/score/bench";
import { act } from "@/score/sending";
import { answerQuestion, bendTo, cutPhrase, join, renamePhrase } from "@/score/edits";
import { capOf } from "@/score/hand";
import { Button, Dialog, Field, Key } from "@/ui/parts";
import { drawn } from "@/ui/signs";
import { codeOf, type Deeds, type Keys } from "./keymap";
import { inHand, shapeInHand } from "./shaping";
import { nextNote } from "./useWriting";

type Props = { run: (deed: Deeds) => void; keys: Keys };

/** One sentence that says what the note at the cursor is, and every key as a button. */
export function Panel({ run, keys }: Props) {
  const state = useBench();
  const [naming, setNaming] = useState<{ from: number; to: number } | { phrase: string } | null>(null);
  const { bench, entry, latches, selection } = state;
  if (bench === null) return null;
  const note = pickedNote(state) ?? noteAtCursor(state);
  const marked = selection === null ? 0 : inHand(state).length;
  const view = note === null ? undefined : state.views[note.id];
  const length = bench.tables.lengths[entry.length];
  const questions =
    note === null ? [] : Object.values(state.elements.questions).filter((one) => one.notes.includes(note.id));
  const phrase = state.phrase === null ? undefined : state.elements.phrases[state.phrase];

  const key = (deed: Deeds, name: string, on?: boolean) => (
    <button
      key={deed}
      type="button"
      aria-pressed={on}
      onClick={() => run(deed)}
      className={`flex items-center gap-[3px] rounded-[4px] px-[3px] py-[1px] ${on ? "bg-pick text-paper" : "hover:bg-paper"}`}
    >
      <Key>
        <span className={on ? "text-pick" : undefined}>{capOf(codeOf(deed, keys))}</span>
      </Key>
      {name}
    </button>
  );
  return (
    <section aria-label="The note in hand" className="min-w-0">
      <p role="status" aria-label="What was done" className="sr-only">
        {[
          bench.history.undo,
          ...(["join", "stay", "open", "reach", "move"] as const)
            .filter((name) => latches[name])
            .map((name) => `${name} is on`),
        ]
          .filter(Boolean)
          .join("; ")}
      </p>
      {/* As high whatever is said, so that no key moves the strip above. */}
      <div className="mb-1 sm:h-[72px] sm:overflow-hidden">
        <p
          role="status"
          aria-live="polite"
          aria-label="Sentence"
          className="line-clamp-2 font-naming text-[20px] font-semibold leading-[25px]"
        >
          {note === null ? (
            "Nothing is written here."
          ) : view === undefined ? (
            "Written; its label is on the way."
          ) : (
            <Sentence says={view.says} />
          )}
        </p>
        <p className="line-clamp-2 text-[15px] leading-[20px] text-ink-2" title={view?.more}>
          {marked > 1
            ? `${marked} notes are marked: a key or the menu changes all of them.`
            : note === null
              ? keys.numbers
                ? "A home-row key chooses the string, digits the fret; a second digit joins the first."
                : "A key of the hand block writes a note here; its place is on the neck at the right."
              : drawn(view?.more ?? "")}
        </p>
      </div>
      <div role="toolbar" aria-label="Shape the note" className="flex flex-wrap gap-x-1 text-[14px] max-sm:hidden">
        {key("bend", "bend")}
        {bench.tables.bend_sizes.map((size) => (
          <button
            key={size.quarters}
            type="button"
            aria-label={`Bend ${size.size}`}
            className="rounded-[4px] px-[6px] font-bold text-ink-2 hover:bg-paper"
            onClick={() => shapeInHand((one, tables) => bendTo(one, size.quarters, tables))}
          >
            {size.size}
          </button>
        ))}
        {key("release", "release")}
        {key("vibrato", "vibrato")}
        {key("slide", "slide")}
        {key("dead", "dead")}
        {key("where else", "where else")}
        {key("unsure", "unsure", note !== null && note.sure !== "sure")}
      </div>
      <div
        role="toolbar"
        aria-label="What is written next"
        className="mt-[2px] flex max-sm:hidden flex-wrap items-center gap-x-1 text-[14px]"
      >
        <span aria-label="Length" className="min-w-[52px] text-[16px] font-bold">
          {length?.short}
          {entry.dot ? "." : ""}
          {entry.triplet ? " triplet" : ""}
        </span>
        {key("shorter", "shorter")}
        {key("longer", "longer")}
        {key("dot", "dot", entry.dot)}
        {key("triplet", "triplet", entry.triplet)}
        {key("rest", "rest")}
        {key("join", "join", latches.join)}
        {key("stay", "stay", latches.stay)}
        {key("open", "open", latches.open)}
        {key("reach", "reach", latches.reach)}
        {key("move", "move", latches.move)}
        {latches.move && (
          <span className="flex gap-1">
            {(
              [
                ["left", "←"],
                ["right", "→"],
                ["up", "fret +"],
                ["down", "fret −"],
              ] as const
            ).map(([deed, name]) => (
              <button
                key={deed}
                type="button"
                aria-label={`Move ${deed}`}
                className="rounded-[4px] bg-paper px-2 font-bold"
                onClick={() => run(deed)}
              >
                {name}
              </button>
            ))}
          </span>
        )}
      </div>
      <div
        role="toolbar"
        aria-label="Hand and history"
        className="mt-[2px] flex max-sm:hidden flex-wrap items-center gap-x-1 text-[14px]"
      >
        <label>
          hand{" "}
          <input
            type="number"
            aria-label="Position"
            min={0}
            max={bench.tables.frets - 3}
            value={entry.position}
            onChange={(event) =>
              event.target.value !== "" &&
              setEntry({
                position: Math.min(bench.tables.frets - 3, Math.max(0, Math.round(Number(event.target.value)))),
              })
            }
            className="w-[46px] rounded-[4px] border border-rule-2 bg-sheet px-1 text-[16px] font-bold"
          />
        </label>
        {key("hand down", "down")}
        {key("hand up", "up")}
        {key("hand here", "there")}
        {bench.tables.strings.length > 6 && key("block", "block")}
        <button
          type="button"
          aria-label="Note before"
          className="rounded-[4px] px-[5px] hover:bg-paper"
          onClick={() => nextNote(-1)}
        >
          ‹ note
        </button>
        <button
          type="button"
          aria-label="Note after"
          className="rounded-[4px] px-[5px] hover:bg-paper"
          onClick={() => nextNote(1)}
        >
          note ›
        </button>
        {selection === null && (
          <button
            type="button"
            className="rounded-[4px] px-[5px] hover:bg-paper"
            onClick={() => (note === null ? hint("No note is selected to join.") : act(join(state.elements, note)))}
          >
            join back
          </button>
        )}
        {key("delete", "delete")}
        {selection !== null && (
          <button
            type="button"
            className="rounded-[4px] bg-pick px-2 font-bold text-paper"
            onClick={() => setNaming(selection)}
          >
            new phrase …
          </button>
        )}
        {phrase !== undefined && (
          <button
            type="button"
            className="rounded-[4px] px-[5px] font-bold hover:bg-paper"
            onClick={() => setNaming({ phrase: phrase.id })}
          >
            name “{phrase.name}” …
          </button>
        )}
        <button
          type="button"
          disabled={bench.history.undo === null && state.waiting === 0}
          aria-label="Undo"
          className="rounded-[4px] px-[5px] enabled:hover:bg-paper"
          onClick={() => run("undo")}
          title={bench.history.undo ?? undefined}
        >
          <Key>{capOf(codeOf("undo", keys))}</Key> undo
        </button>
        <button
          type="button"
          disabled={bench.history.redo === null}
          aria-label="Redo"
          className="rounded-[4px] px-[5px] enabled:hover:bg-paper"
          onClick={() => run("redo")}
        >
          <Key>{capOf(codeOf("redo", keys))}</Key> redo
        </button>
      </div>
      {questions.length > 0 && (
        <ul className="mt-1 text-[14px]">
          {questions.map((question) => (
            <li key={question.id} className="flex flex-wrap items-center gap-2">
              <span className="font-bold text-doubt">{question.words}</span>
              {question.answer === null ? (
                question.answers.map((answer) => (
                  <button
                    key={answer}
                    type="button"
                    className="underline underline-offset-2"
                    onClick={() => act(answerQuestion(question, answer))}
                  >
                    {answer}
                  </button>
                ))
              ) : (
                <span>{question.answer}</span>
              )}
              <button
                type="button"
                className="underline underline-offset-2"
                onClick={() => act(answerQuestion(question, question.answer === null ? "settled" : null))}
              >
                {question.answer === null ? "settle it" : "open it again"}
              </button>
            </li>
          ))}
        </ul>
      )}
      {naming !== null && <NameDialog what={naming} onClose={() => setNaming(null)} />}
    </section>
  );
}

/** The part after the colon leans: it is what the note is, not where it lies. */
function Sentence({ says }: { says: string }) {
  const colon = says.indexOf(": ");
  if (colon < 0) return <>{drawn(says)}</>;
  return (
    <>
      {drawn(says.slice(0, colon + 2))}
      <em>{drawn(says.slice(colon + 2))}</em>
    </>
  );
}

function NameDialog({
  what,
  onClose,
}: {
  what: { from: number; to: number } | { phrase: string };
  onClose: () => void;
}) {
  const phrase = "phrase" in what ? useBench.getState().elements.phrases[what.phrase] : undefined;
  const [name, setName] = useState(phrase?.name ?? "");
  const save = () => {
    if (phrase !== undefined) act(renamePhrase(phrase, name));
    else if ("from" in what) {
      act(cutPhrase(useBench.getState().elements, what.from, what.to, name));
      select(null);
    }
    onClose();
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      title={phrase === undefined ? "New phrase" : "Name a phrase"}
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          save();
        }}
      >
        <Field
          label="Name"
          required
          autoFocus
          placeholder="the ladder"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <div className="flex justify-end gap-2">
          {phrase !== undefined && (
            <Button
              quiet
              onClick={() => {
                act(renamePhrase(phrase, null));
                onClose();
              }}
            >
              delete it
            </Button>
          )}
          <Button quiet onClick={onClose}>
            Cancel
          </Button>
          <Button strong type="submit">
            {phrase === undefined ? "Cut" : "Name"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
