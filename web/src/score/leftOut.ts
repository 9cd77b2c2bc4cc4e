/** Acts that were refused, as they are listed: what they were, why, and what stands there now. */
import type { Problem } from "@/api/client";
import type { LeftOut } from "./outbox";
import type { Answer, Edit } from "./types";

type Refused = Answer["refused"][number];

const stated = (where: Refused["where"], name: string): string | null =>
  where[name] == null ? null : String(where[name]);

/** A refusal of one act, with its edits. */
export const leftOutBy = (one: Refused, edits: readonly Edit[]): LeftOut => ({
  act: one.act,
  edits: edits.filter((edit) => one.edits.includes(edit.id)),
  code: one.code,
  sentence: one.sentence,
  place: stated(one.where, "place"),
  kind: stated(one.where, "kind"),
  id: stated(one.where, "id"),
  now: one.now ?? null,
  restsOn: one.rests_on ?? null,
});

/** A request with one act, refused as a whole. */
export const leftOutAlone = (problem: Problem, edits: readonly Edit[]): LeftOut =>
  leftOutBy(
    {
      act: edits[0]?.act ?? "",
      edits: edits.map((edit) => edit.id),
      code: problem.code,
      sentence: problem.title,
      where: problem.where,
      now: problem.now,
      rests_on: null,
    },
    edits,
  );

/** Acts that rest on one that was left out. */
export const restingOn = (first: LeftOut | undefined, resting: readonly Edit[]): LeftOut[] =>
  [...new Set(resting.map((edit) => edit.act))].map((act) => ({
    act,
    edits: resting.filter((edit) => edit.act === act),
    code: "rests-on",
    sentence: `It needs “${first?.edits[0]?.label ?? "a change"}”, which was left out before it.`,
    place: null,
    kind: null,
    id: null,
    now: null,
    restsOn: first?.act ?? null,
  }));
