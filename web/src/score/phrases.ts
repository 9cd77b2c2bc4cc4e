/** Phrases cut and named, questions asked and answered. */
import { type Act, Draft, type Elements, change, newId } from "./elements";
import type { Note, Phrase, Question } from "./types";

/** A phrase over a span; older ones that it overlaps are trimmed, as the server will say. */
export const cutPhrase = (elements: Elements, from: number, to: number, name: string): Act => {
  const draft = new Draft(elements);
  const id = newId();
  draft.set("phrase", id, { id, start: from, end: to, name });
  for (const old of Object.values(elements.phrases)) {
    if (old.end <= from || old.start >= to) continue;
    draft.follow(
      "phrase",
      old.id,
      old.start < from ? { ...old, end: from } : old.end > to ? { ...old, start: to } : null,
    );
  }
  return draft.act("cut a phrase", null);
};

export const renamePhrase = (phrase: Phrase, name: string | null): Act => ({
  label: name === null ? "take a phrase away" : "name a phrase",
  changes: [change("phrase", phrase.id, phrase, name === null ? null : { ...phrase, name })],
  picked: null,
});

/** A question over a span and the notes that begin in it, which are unsure from then on. */
export const askSpan = (
  span: { readonly from: number; readonly to: number },
  notes: readonly Note[],
  words: string,
  answers: readonly string[],
): Act => {
  const id = newId();
  const question = {
    id,
    start: span.from,
    end: span.to,
    notes: notes.map((note) => note.id),
    words,
    answers: [...answers],
    answer: null,
  };
  const unsure = notes
    .filter((note) => note.sure === "sure")
    .map((note) => change("note", note.id, note, { ...note, sure: "unsure" }));
  return {
    label: "ask a question",
    changes: [change("question", id, null, question), ...unsure],
    picked: notes.length === 1 ? (notes[0]?.id ?? null) : null,
  };
};

export const answerQuestion = (question: Question, answer: string | null): Act => ({
  label: answer === null ? "open a question again" : "answer a question",
  changes: [change("question", question.id, question, { ...question, answer })],
  picked: null,
});
