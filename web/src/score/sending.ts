/**
 * What goes to the server and comes back, one request at a time: edits, undo and redo, and other requests, in the order in
 * which they were made. An edit is drawn at once; what a person does while an undo is under way waits its turn behind it.
 */
import { api, AWAY, type Problem, Refusal, sentence, take, Unreachable } from "@/api/client";
import type { StoreApi } from "zustand";
import { Grid } from "./axis";
import { atHand, setCursor, useCursor } from "./cursor";
import { openDocument, useDocument } from "./document";
import { setEntry, useEntry } from "./entry";
import { leftOutAlone, leftOutBy, restingOn } from "./leftOut";
import { Line } from "./line";
import { listen } from "./news";
import * as copies from "./copy";
import type { Copy } from "./copy";
import { type Act, newId, type Nothing } from "./elements";
import * as outbox from "./outbox";
import type { LeftOut } from "./outbox";
import { type Clash, hint, useSaving } from "./saving";
import { useShown } from "./shown";
import type { Answer, Bench, Edit } from "./types";

const { getState: saving, setState: say } = useSaving;

/** Said of what only the server can do. */
const NOT_DONE = "The server does not answer, so this was not done. Try again when it is back.";
const NOT_KNOWN = "The server did not answer, so this may not be stored. Try again when it is back.";
const AGAIN_MS = 1_500;
const TRIES = 3; // of an undo whose answer does not come
const MOST_AT_ONCE = 200;
/** Refusals that say nothing of any one edit: everything waits until they are over. */
const OF_ALL: readonly string[] = [
  "not-there",
  "solo-removed",
  "host-unknown",
  "origin-refused",
  "no-such-address",
  "method-unknown",
];

let copy: Copy | null = null; // the one owner of what is known; null for an earlier state and before a solo is open
let unlisten: (() => void) | null = null;
const line = new Line();
let busy: number | null = null; // the session that is being seen to
let again = false; // something came while the last step was taken
let alone = 0; // so many acts go by themselves, to find the one that a whole request is refused for
let unsure = 0; // so many times it is asked what became of a request whose answer was lost, before anything is done on top of it
let faults = 0; // how often the first act met a fault of the server
let retry: ReturnType<typeof setTimeout> | null = null;
let session = 0; // rises with every solo that is opened or closed: what is answered later is another's

/** The copy as it is now: it may have changed while something was awaited. */
const known = (): Copy | null => copy;

/** Put what is known into view. */
const show = (next: Copy): void => {
  const { bench, elements, grid } = openDocument();
  const { picked } = atHand();
  copy = next;
  const all = copies.drawn(next, elements);
  useDocument.setState({
    bench: next.bench,
    elements: all,
    views: next.views,
    versions: next.versions,
    unanswered: new Set(copies.wholeOf(next.waiting).flatMap((change) => (change.kind === "note" ? [change.id] : []))),
    grid:
      bench?.ground.anchors === next.bench.ground.anchors && bench.strip === next.bench.strip
        ? grid
        : new Grid(next.bench.ground.anchors),
  });
  say({ waiting: next.waiting.length });
  if (picked !== null && all.notes[picked] === undefined) useCursor.setState({ picked: null });
};

const reset = <State>({ setState, getInitialState }: StoreApi<State>): void => setState(getInitialState(), true);

/** Nothing is open, nothing is known. */
const clear = (past: number | null): void => {
  reset(useDocument);
  reset(useSaving);
  reset(useCursor);
  reset(useEntry);
  reset(useShown);
  useDocument.setState({ past });
};

// -- opening ------------------------------------------------------------------------------------------------------

const fetchSolo = async (solo_id: string, state: number | null): Promise<Bench> =>
  // The client widens tuples to arrays; the server sent what its schema says.
  (await take(
    api.GET("/api/solos/{solo_id}", { params: { path: { solo_id }, query: state === null ? {} : { state } } }),
  )) as unknown as Bench;

/** Open a solo, with what was not answered when the page was closed; or one of its earlier states, which takes no edits. */
export const openSolo = async (soloId: string, past: number | null = openDocument().past): Promise<void> => {
  if (past === null && copy?.bench.solo_id === soloId) return reload();
  const mine = (session += 1);
  const [bench, kept, leftOut] = await Promise.all([
    fetchSolo(soloId, past),
    past === null ? outbox.waiting(soloId) : [],
    past === null ? outbox.leftOut(soloId) : [],
  ]);
  if (mine !== session) return undefined;
  const first = bench.strip.bars.find((bar) => bar.number === bench.solo.settings.first_bar) ?? bench.strip.bars[0];
  const fretted = bench.solo.notes.map((note) => note.fret ?? 0).filter((fret) => fret > 0);
  clear(past);
  say({ leftOut });
  useCursor.setState({ cursor: { tick: first?.tick ?? 0, string: 2 } });
  if (fretted[0] !== undefined) setEntry({ position: Math.max(1, Math.round(fretted[0] / 100) - 1) });
  const found = copies.opened(null, bench, kept);
  if (found !== null) show(found);
  say({ sending: kept.length > 0 ? "sending" : "saved" });
  if (past !== null) {
    copy = null;
    return undefined;
  }
  unlisten = listen(soloId, (news) => {
    if (copy === null) return;
    copy = news === null ? copies.deafened(copy) : copies.heardOf(copy, news.document, news.version);
    void next();
  });
  void next();
  return undefined;
};

/** Ask for the open solo anew, in its turn: how it is said may have changed. */
const reload = (): Promise<void> =>
  inLine(async (soloId) => {
    for (;;) {
      const bench = await fetchSolo(soloId, null);
      const now = known();
      if (now?.bench.solo_id !== soloId) return;
      const found = copies.opened(now, bench, []);
      if (found !== null) {
        show(found);
        return;
      }
    }
  }).then(() => undefined);

/** Leave the solo; what is kept goes when it is opened again. */
export const closeSolo = (): void => {
  session += 1;
  copy = null;
  line.clear();
  alone = faults = unsure = 0;
  unlisten?.();
  unlisten = null;
  if (retry !== null) clearTimeout(retry);
  retry = null;
  clear(null);
};

/** An earlier state is open to be read: why nothing is written on it. */
const whyReadOnly = (): string | null => {
  const { past } = openDocument();
  return past === null
    ? null
    : `State ${past} is open for reading only. Restore it to go on from there, or go back to the present.`;
};

/** What is known of the recording has been written down otherwise. */
export const setRecording = (recording: Bench["recording"]): void => {
  if (copy !== null) show({ ...copy, bench: { ...copy.bench, recording } });
};

// -- acts -----------------------------------------------------------------------------------------------------------

/** Do something: it is drawn at once, kept, sent. One that would do nothing says why. */
export const act = (made: Act | Nothing | null): void => {
  if (made === null) return;
  if ("nothing" in made) return hint(made.nothing);
  if (made.changes.length === 0) return;
  const past = whyReadOnly();
  if (past !== null) return hint(past);
  inTurn(() => {
    if (copy === null) return;
    // What was made before the undo it waited for may rest on what the undo took.
    if (
      made.changes.some((change) => {
        const now = copies.valueOf(openDocument().elements, change);
        return now !== undefined && !copies.equal(now, change.before ?? null);
      })
    ) {
      return hint("What this would change is gone. Do it again.");
    }
    const { bench } = copy;
    send([
      {
        id: newId(),
        act: newId(),
        document: bench.solo_id,
        made_in: bench.solo_id,
        undoes: null,
        person: bench.person,
        at: new Date().toISOString(),
        schema: 5,
        label: made.label,
        changes: made.changes,
        follows: made.follows ?? [],
      },
    ]);
    useCursor.setState({ picked: made.picked });
  });
};

/** Keep edits, draw them and let them go. */
const send = (edits: readonly Edit[]): void => {
  if (copy === null) return;
  const soloId = copy.bench.solo_id;
  show(edits.reduce(copies.made, copy));
  if (saving().sending === "saved") say({ sending: "sending" });
  void Promise.all(edits.map((edit) => outbox.keep(soloId, edit))).then(next, next);
};

const wait = (turn: Parameters<Line["enter"]>[0]): void => {
  if (saving().sending === "saved") say({ sending: "sending" });
  line.enter(turn);
};

/** Run now, or behind the undo or the request that is under way. */
export const inTurn = (run: () => void): void => {
  if (line.free) run();
  else wait({ run });
};

/** The page goes: what waits its turn is done now, so that it is kept. */
export const hurry = (): void => line.hurry();

const pause = (): Promise<void> => new Promise((wake) => setTimeout(wake, AGAIN_MS / TRIES));

const seenTo = (): number | null => busy;

/** Everything that waits, in its order, until nothing is left or the server cannot be asked. */
const next = async (): Promise<void> => {
  again = true;
  const mine = session;
  if (busy === mine) return;
  busy = mine;
  try {
    while (again && mine === session) {
      again = false;
      again = (await step()) || again;
    }
  } finally {
    if (seenTo() === mine) busy = null;
  }
};

const step = async (): Promise<boolean> => {
  if (copy === null) return false;
  if (unsure > 0) {
    unsure -= 1;
    await deliver([]);
    if (saving().sending === "away") await pause();
    else unsure = 0;
    if (unsure > 0) say({ sending: "sending" });
    return true;
  }
  const { head } = line;
  if (head !== undefined && "run" in head) {
    line.runFirst(head);
    return true;
  }
  const { sending } = saving();
  if (sending === "away" || sending === "refused") {
    const why = sending === "away" ? NOT_DONE : "What you wrote before is not saved yet. Try again when it is.";
    line.giveUp(why);
    return line.length > 0;
  }
  if (copy.waiting.length > 0) {
    await deliver(copies.nextBatch(copy, MOST_AT_ONCE, alone > 0));
    return true;
  }
  if (head !== undefined) {
    await head.ask();
    line.leave(head);
    await new Promise((wake) => setTimeout(wake)); // who asked goes on before what waited behind
    return true;
  }
  if (!copies.isBehind(copy)) {
    if (sending === "sending") say({ sending: "saved" });
    return false;
  }
  await deliver([]);
  return true;
};

const deliver = async (edits: readonly Edit[]): Promise<void> => {
  if (copy === null) return;
  const [soloId, mine] = [copy.bench.solo_id, session];
  const ids = new Set(edits.map((edit) => edit.id));
  copy = copies.caughtUp(copy); // now, not with the answer: news that comes meanwhile may be of a later version
  try {
    const answer = await take(
      api.POST("/api/solos/{solo_id}/edits", {
        params: { path: { solo_id: soloId } },
        body: { versions: { ...copy.versions }, edits: [...edits] },
      }),
    );
    const refused = answer.refused.map((one) => leftOutBy(one, edits));
    if (refused.length > 0) await outbox.leaveOut(soloId, refused);
    await outbox.drop(soloId, ids);
    if (mine !== session) return;
    faults = 0;
    if (alone > 0) alone -= 1;
    if (refused.length > 0) await leaveOut(soloId, refused);
    const now = known();
    if (now === null) return;
    const next = copies.answered(now, answer, ids);
    const revised = next.waiting.filter((edit) => !now.waiting.includes(edit));
    show(next);
    if (revised.length > 0) await outbox.revise(soloId, revised);
    if (edits.length > 0 && refused.length === 0) say({ trouble: (answer.messages ?? []).join(" ") || null });
  } catch (fault) {
    if (mine !== session) return;
    copy = copies.deafened(copy);
    await stumble(fault, soloId, edits);
  }
};

/** A request that was not answered, or refused whole: wait, or find the act that it was refused for. */
const stumble = async (fault: unknown, soloId: string, edits: readonly Edit[]): Promise<void> => {
  if (copy === null) return;
  if (fault instanceof Unreachable) {
    say({ sending: "away", trouble: fault.message === AWAY ? null : fault.message });
    retry ??= setTimeout(() => {
      retry = null;
      tryAgain();
    }, AGAIN_MS);
    return;
  }
  const problem = fault instanceof Refusal ? fault.problem : null;
  if (problem?.code === "page-ahead") {
    const bench = await fetchSolo(soloId, null).catch(() => null);
    const now = known();
    if (bench !== null && now !== null) show(copies.opened(null, bench, now.waiting) ?? now);
    else say({ sending: "refused", trouble: problem.title });
    return;
  }
  const acts = new Set(edits.map((edit) => edit.act)).size;
  if (problem === null || acts === 0 || OF_ALL.includes(problem.code)) {
    say({ sending: "refused", trouble: sentence(fault) });
    if (problem === null) throw fault;
  } else if (acts > 1) alone = acts;
  else if (problem.code === "our-fault" && faults === 0)
    faults += 1; // once more: it may have been the moment
  else {
    faults = 0;
    alone = Math.max(0, alone - 1);
    const refused = leftOutAlone(problem, edits);
    await outbox.leaveOut(soloId, [refused]);
    await leaveOut(soloId, [refused]);
  }
};

/** Try what was stopped once more. */
export const tryAgain = (): void => {
  if (copy === null) return;
  say({ sending: "sending" });
  void next();
};

/** Whether everything that waits has been answered; it goes now if it can. */
export const settled = async (): Promise<boolean> => {
  await inLine(() => Promise.resolve());
  return copy !== null && copy.waiting.length === 0;
};

/** A turn in the line: behind all that waits, before all that is done later. Why it could not be asked; empty when it was. */
const inLine = (ask: (soloId: string) => Promise<void>): Promise<string> =>
  new Promise((resolve, reject) => {
    const soloId = copy?.bench.solo_id;
    if (soloId === undefined) return resolve("No solo is open.");
    wait({
      ask: () => ask(soloId).then(() => resolve(""), reject),
      fail: resolve,
    });
    void next();
  });

type Worked = (soloId: string, versions: Record<string, number>) => Promise<Answer>;
type Refused = { readonly why: string; readonly clash: Clash | null };

/** Ask the server for a change that it works out itself; edits that wait go first. What it was refused for, null once it is done. */
const asked = async (ask: Worked, shown: boolean): Promise<Refused | null> => {
  const past = whyReadOnly();
  if (copy === null || past !== null) return { why: past ?? "", clash: null };
  const mine = session;
  const { cursor } = atHand();
  let refused: Refused | null = { why: "", clash: null };
  const waited = await inLine(async (soloId) => {
    try {
      const answer = await ask(soloId, { ...(copy?.versions ?? {}) });
      const now = known();
      if (mine !== session || now === null) return;
      show(copies.answered(now, answer));
      say({ messages: answer.messages ?? [], trouble: null, clash: null });
      // The cursor is the person's: it goes where something changed unless they have put it elsewhere meanwhile.
      if (shown && atHand().cursor === cursor) showChanged(answer.edits);
      refused = null;
    } catch (fault) {
      if (fault instanceof Refusal && fault.problem.code === "chart-unreadable") throw fault;
      if (fault instanceof Unreachable) unsure = TRIES;
      refused = {
        why: fault instanceof Unreachable && fault.message === AWAY ? NOT_KNOWN : sentence(fault),
        clash: fault instanceof Refusal ? clashOf(fault.problem) : null,
      };
    }
  });
  return waited === "" ? refused : { why: waited, clash: null };
};

/** Ask for such a change where a dialog says what went wrong: the reason, or null once it is done. */
export const tryRequest = async (ask: Worked, shown = false): Promise<string | null> =>
  (await asked(ask, shown))?.why ?? null;

/** Ask for such a change; the page says what went wrong. `shown` brings what changed into view. */
export const request = async (ask: Worked, shown = false): Promise<boolean> => {
  const refused = await asked(ask, shown);
  if (refused === null) return true;
  if (refused.why !== "") say({ trouble: refused.why, clash: refused.clash });
  return false;
};

/** Bring what an answer changed into view. */
const showChanged = (edits: readonly Edit[]): void => {
  for (const { kind, before, after } of edits.flatMap((edit) => edit.changes)) {
    const element = (after ?? before) as { tick?: number; start?: number; string?: number } | null;
    const tick = element?.tick ?? element?.start;
    if (kind !== "setting" && tick !== undefined)
      return setCursor({ tick, ...(element?.string === undefined ? {} : { string: element.string }) });
  }
};

/** Ask for an undo or a redo; under its own id it may be asked for again when the answer was lost. */
const takeBack = (which: "undo" | "redo", rest: boolean): Promise<boolean> => {
  const act = newId();
  return request(async (solo_id, versions) => {
    for (let tries = 1; ; tries += 1) {
      try {
        const params = { path: { solo_id } };
        return await take(
          which === "undo"
            ? api.POST("/api/solos/{solo_id}/undo", { params, body: { versions, rest, act } })
            : api.POST("/api/solos/{solo_id}/redo", { params, body: { versions, act } }),
        );
      } catch (fault) {
        if (!(fault instanceof Unreachable) || tries === TRIES) throw fault;
        await pause();
      }
    }
  }, true);
};
export const undo = (rest = false): Promise<boolean> => takeBack("undo", rest);
export const redo = (): Promise<boolean> => takeBack("redo", false);

/** An undo of what another changed since: whether the rest of it can be undone. */
const clashOf = ({ code, title, where }: Problem): Clash | null =>
  where["rest"] === undefined || (code !== "edit-conflict" && code !== "place-taken")
    ? null
    : { sentence: title, rest: where["rest"] === "possible" };

// -- what was left out ----------------------------------------------------------------------------------------------

/** Take refused acts off the strip, with what waits and was made of their values, and say so. */
const leaveOut = async (soloId: string, refused: readonly LeftOut[]): Promise<void> => {
  const now = known();
  if (now === null) return;
  const found = copies.without(now, new Set(refused.map((one) => one.act)));
  const [first] = refused;
  const resting = restingOn(first, found.resting);
  show(found.copy);
  if (resting.length > 0) await outbox.leaveOut(soloId, resting);
  say((state) => ({
    leftOut: [...state.leftOut, ...refused, ...resting],
    trouble: `“${first?.edits[0]?.label ?? "A change"}” was left out. ${first?.sentence ?? ""}`,
  }));
};

const forget = async (acts: readonly string[]): Promise<void> => {
  if (copy === null) return;
  await outbox.dropLeftOut(copy.bench.solo_id, new Set(acts));
  say((state) => ({ leftOut: state.leftOut.filter((one) => !acts.includes(one.act)), trouble: null }));
};

/** Send what was left out once more, as it was; or `over` what stands there now. */
export const sendAgain = (one: LeftOut, over = false): void =>
  inTurn(() => {
    const edits = copies.again(
      one.edits,
      openDocument().elements,
      over,
      one.code === "place-taken" ? { kind: one.kind ?? "", value: one.now } : null,
    );
    send(edits);
    void forget([one.act]);
  });

export const dropLeftOut = (one: LeftOut): Promise<void> => forget([one.act]);
