/** Checking the open solo: asked of the server when it changes, listened to by a worker, findings mended and waived. */
import { api, type Schemas, sentence, take } from "@/api/client";
import { isOpen, leave, watch } from "@/api/estimates";
import { checkingNow, type Finding, findingInHand, forgetChecking, listed, setChecking } from "@/score/checking";
import { goTo } from "@/score/cursor";
import { openDocument, useDocument } from "@/score/document";
import { useLook } from "@/score/look";
import { NO_HINTS, type Hints } from "@/score/offers";
import { playerNow } from "@/score/playing";
import { hint } from "@/score/saving";
import { request, settled, tryRequest } from "@/score/sending";
import { shownNow } from "@/score/shown";

const SOON_MS = 250; // after a change the solo is checked again
const LATER_MS = 2_500; // while another stage is open
const LOOK_MS = 300;

const path = () => ({ path: { solo_id: openDocument().bench?.solo_id ?? "" } });
const hand = () => useLook.getState().handSize;

let soon: ReturnType<typeof setTimeout> | undefined;
let endWatching = (): void => undefined;
let asked = 0; // the last answer counts

// The client widens tuples to arrays; the server sent what its schema says.
const checkOf = (sent: unknown): Schemas["CheckView"] => sent as Schemas["CheckView"];
const closeOf = (sent: unknown): Schemas["CloserView"] => sent as Schemas["CloserView"];

/** Check the solo as it stands. */
export const checkAgain = async (): Promise<void> => {
  clearTimeout(soon);
  const number = (asked += 1);
  try {
    await settled();
    const check = checkOf(
      await take(api.GET("/api/solos/{solo_id}/check", { params: { ...path(), query: { hand: hand() } } })),
    );
    if (number !== asked) return;
    setChecking({ check });
    const state = checkingNow();
    if (findingInHand(state) === null) choose(listed(state)[0]?.id ?? null);
    else void lookCloser();
  } catch (fault) {
    if (number === asked) setChecking({ message: sentence(fault) });
  }
};

/** While a solo is open its check follows what is written, at once on its own stage and a little later on others. */
export const followChecking = (): (() => void) => {
  const end = useDocument.subscribe((now, before) => {
    if (now.elements === before.elements && now.grid === before.grid) return;
    clearTimeout(soon);
    soon = setTimeout(() => void checkAgain(), shownNow().stage === "check" ? SOON_MS : LATER_MS);
  });
  void checkAgain();
  void takeUp();
  return () => {
    end();
    asked += 1;
    turn += 1;
    clearTimeout(soon);
    leaveListening();
    forgetChecking();
  };
};

/** Take a finding in hand, and go where it is. */
export const choose = (id: string | null): void => {
  setChecking({ chosen: id, close: null, waiving: false });
  const finding = findingInHand(checkingNow());
  if (finding === null) return;
  if (shownNow().stage === "check") goTo(finding.tick, finding.notes[finding.notes.length - 1]);
  void lookCloser();
};

const lookCloser = async (): Promise<void> => {
  const { chosen } = checkingNow();
  if (chosen === null) return;
  try {
    const body = { finding: chosen, hand: hand() };
    const close = closeOf(await take(api.POST("/api/solos/{solo_id}/check/closer", { params: path(), body })));
    if (checkingNow().chosen === chosen) setChecking({ close });
  } catch {
    if (checkingNow().chosen === chosen) setChecking({ close: null }); // it went meanwhile; the next list says so
  }
};

/** The next finding of the list, or the one before. */
export const step = (by: 1 | -1): void => {
  const state = checkingNow();
  const list = listed(state);
  const at = list.findIndex(({ id }) => id === state.chosen);
  const next = list[Math.min(list.length - 1, Math.max(0, at + by))];
  if (next !== undefined) choose(next.id);
};

/** What comes behind a finding in the list, once that is gone. */
const following = (finding: Finding): string | null => {
  const list = listed(checkingNow());
  const at = list.findIndex(({ id }) => id === finding.id);
  return (list[at + 1] ?? list[at - 1])?.id ?? null;
};

const mendingWithout = (id: string): ReadonlySet<string> =>
  new Set([...checkingNow().mending].filter((one) => one !== id));

/** Do what the finding's key does; the next is in hand at once, so that keys in haste mend one after the other. */
export const mend = async (finding: Finding): Promise<void> => {
  if (checkingNow().mending.has(finding.id)) return;
  if (finding.mend === "") {
    hint("No key mends this: change it by hand, waive it, or leave it.");
    return;
  }
  const next = following(finding);
  setChecking({ mending: new Set([...checkingNow().mending, finding.id]) });
  choose(next);
  const body = { finding: finding.id, hand: hand() };
  const done = await request((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/check/mended", { params: { path: { solo_id } }, body })),
  );
  if (done) await checkAgain();
  setChecking({ mending: mendingWithout(finding.id) });
  if (!done) choose(finding.id);
};

/** Let it stand, with a reason. What went wrong, or null. */
export const waive = async (finding: Finding, reason: string): Promise<string | null> => {
  const next = following(finding);
  const body = { finding: finding.id, hand: hand(), reason };
  const why = await tryRequest((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/check/waived", { params: { path: { solo_id } }, body })),
  );
  if (why !== null) return why;
  await checkAgain();
  if (next !== null) choose(next);
  return null;
};

export const takeUpAgain = async (finding: Finding): Promise<void> => {
  const body = { waiver: finding.waiver };
  const done = await request((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/check/taken-up", { params: { path: { solo_id } }, body })),
  );
  if (done) await checkAgain();
};

/** The place of a finding, looped: recording and writing in turns. */
export const hearBoth = (finding: Finding): void => {
  const player = playerNow();
  player?.setHear("turns");
  void player?.loopOver({ from: finding.tick, to: finding.end }, true);
};

// -- listening to the whole solo ------------------------------------------------------------------------------------

let turn = 0; // rises with every listening: an answer that comes later is another's

const follow = (estimate: Schemas["Estimate"]): void => {
  endWatching = watch(estimate, LOOK_MS, heardSoFar, (fault) =>
    setChecking({ estimate: null, message: sentence(fault) }),
  );
};

/** A page that is opened while the solo is heard takes that up. */
const takeUp = async (): Promise<void> => {
  const own = turn;
  const jobs = await take(api.GET("/api/solos/{solo_id}/estimates", { params: path() })).catch(() => []);
  const job = jobs.findLast(({ estimate }) => estimate.kind === "solo");
  if (job !== undefined && own === turn) follow(job.estimate);
};

/** Listen to all of it; what was heard before is not heard again. A second click asks for nothing more. */
export const listenToAll = async (company: Hints["company"]): Promise<void> => {
  if (checkingNow().asking || checkingNow().estimate !== null) return;
  turn += 1;
  setChecking({ message: "", asking: true });
  try {
    const body = { hints: { ...NO_HINTS, company } };
    follow(await take(api.POST("/api/solos/{solo_id}/check/listen", { params: path(), body })));
  } catch (fault) {
    setChecking({ estimate: null, message: sentence(fault) });
  } finally {
    setChecking({ asking: false });
  }
};

const heardSoFar = (estimate: Schemas["Estimate"]): void => {
  if (isOpen(estimate)) return setChecking({ estimate });
  setChecking({ estimate: null, message: estimate.trouble });
  void checkAgain();
};

/** Leave what is being listened to; what was heard until then stays. */
export const leaveListening = (): void => {
  endWatching();
  const { estimate } = checkingNow();
  if (estimate === null) return;
  setChecking({ estimate: null, message: "Cancelled." });
  leave(estimate);
};
