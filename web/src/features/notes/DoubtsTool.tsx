import { useState } from "react";
import { useChecking } from "@/score/checking";
import { goTo, type Selection, useCursor, useNoteInHand } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { act } from "@/score/sending";
import { inOrder } from "@/score/elements";
import { answerQuestion, askSpan } from "@/score/phrases";
import type { Question } from "@/score/types";
import { useDraft } from "@/ui/drafts";
import { KeptDraft } from "@/ui/InputDialog";
import { Button, Field } from "@/ui/parts";
import { drawn } from "@/ui/signs";
import { type Player, playingNow } from "@/score/playing";

const SLOW = 500; // per mille

/** The open questions in the order of the solo: each plays its place slowed, and closes with an answer. */
export function DoubtsTool({ player }: { player: Player }) {
  const questions = useDocument((state) => state.elements.questions);
  const notes = useDocument((state) => state.elements.notes);
  const strip = useDocument((state) => state.bench?.strip);
  const views = useDocument((state) => state.views);
  const heard = useChecking((state) => state.check?.answers);
  const [closed, setClosed] = useState(false);
  const [asking, setAsking] = useState(false);
  const bars = strip?.bars ?? [];
  const unknown = Object.values(notes)
    .filter((note) => note.sure !== "sure")
    .sort((a, b) => a.tick - b.tick);
  const all = Object.values(questions).sort((a, b) => a.start - b.start);
  const open = all.filter((one) => one.answer === null);
  const asked = new Set(open.flatMap((one) => one.notes));
  const where = (tick: number) => bars.find((bar) => bar.tick <= tick && tick < bar.end)?.label ?? "";
  const hear = (question: Question) => {
    goTo(question.start, question.notes[0]);
    if (playingNow().speed > SLOW) player.setSpeed(SLOW);
    const bar = bars.find((one) => one.tick <= question.start && question.start < one.end);
    const from = Math.max(bar?.tick ?? question.start, question.start - 20_160);
    void player.loopOver({ from, to: question.end }, true);
  };
  return (
    <div className="flex flex-col gap-1 text-[14px]">
      <div className="flex flex-wrap items-center gap-3">
        <p role="status" aria-label="Doubts">
          <b>
            {open.length === 0 ? "No question is open." : `${open.length} open question${open.length > 1 ? "s" : ""}.`}
          </b>
        </p>
        <Button size="narrow" onClick={() => setAsking(!asking)}>
          Ask …
        </Button>
        {all.length > open.length && (
          <button type="button" className="underline" onClick={() => setClosed(!closed)}>
            {closed ? "hide the closed" : `${all.length - open.length} closed`}
          </button>
        )}
      </div>
      {asking && <Ask onDone={() => setAsking(false)} />}
      <ol aria-label="Questions" className="flex flex-col gap-1">
        {(closed ? all : open).map((question) => (
          <li key={question.id} className="flex flex-wrap items-center gap-2">
            <button
              type="button"
              className="font-bold underline"
              onClick={() => goTo(question.start, question.notes[0])}
            >
              bar {where(question.start)}
            </button>
            <span className={question.answer === null ? "font-bold text-doubt" : "text-ink-2"}>{question.words}</span>
            <button
              type="button"
              aria-label={`hear it slowly: ${question.words}`}
              className="underline"
              onClick={() => hear(question)}
            >
              hear it slowly
            </button>
            {question.answer === null ? (
              [
                ...question.answers,
                ...(heard ?? []).filter((one) => one.question === question.id).map(({ words }) => words),
                "settled",
              ].map((answer) => (
                <button
                  key={answer}
                  type="button"
                  className="rounded-[4px] bg-paper px-2 font-bold"
                  onClick={() => act(answerQuestion(question, answer))}
                >
                  {drawn(answer)}
                </button>
              ))
            ) : (
              <>
                <span>{question.answer}</span>
                <button type="button" className="underline" onClick={() => act(answerQuestion(question, null))}>
                  open it again
                </button>
              </>
            )}
          </li>
        ))}
      </ol>
      {unknown.some((note) => !asked.has(note.id)) && (
        <p>
          Unsure without a question:{" "}
          {unknown
            .filter((note) => !asked.has(note.id))
            .slice(0, 12)
            .map((note) => (
              <button key={note.id} type="button" className="mr-2 underline" onClick={() => goTo(note.tick, note.id)}>
                {views[note.id]?.where ?? `bar ${where(note.tick)}`}
              </button>
            ))}
        </p>
      )}
    </div>
  );
}

/** A question about what is marked, or about the note in hand. */
function Ask({ onDone }: { onDone: () => void }) {
  const selection = useCursor((state) => state.selection);
  const note = useNoteInHand();
  const span = selection ?? (note === null ? null : { from: note.tick, to: note.tick + note.ticks });
  if (span === null) return <p className="text-doubt">Mark a span or select a note first: a question has a place.</p>;
  return <AskAbout key={`${span.from}-${span.to}`} span={span} marked={selection !== null} onDone={onDone} />;
}

function AskAbout({ span, marked, onDone }: { span: Selection; marked: boolean; onDone: () => void }) {
  const all = useDocument((state) => state.elements.notes);
  const soloId = useDocument((state) => state.bench?.solo_id ?? "");
  const draft = useDraft(`question ${soloId} ${span.from}-${span.to}`, { words: "", answers: "" });
  const { words, answers } = draft.value;
  const inside = inOrder(all).filter((one) => one.tick >= span.from && one.tick < span.to);
  const split = answers
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);
  return (
    <form
      className="flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        act(askSpan(span, inside, words, split));
        draft.drop();
        onDone();
      }}
    >
      <div className="w-72">
        <Field
          label={marked ? `About ${inside.length} notes` : "About this note"}
          required
          autoFocus
          placeholder="fret 13 on 2, or 8 on 3?"
          value={words}
          onChange={(event) => draft.set({ words: event.target.value })}
        />
      </div>
      <div className="w-56">
        <Field
          label="Possible answers, with commas"
          value={answers}
          onChange={(event) => draft.set({ answers: event.target.value })}
        />
      </div>
      <Button strong type="submit">
        Ask
      </Button>
      <KeptDraft draft={draft} />
    </form>
  );
}
