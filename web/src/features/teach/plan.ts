/** The plan of the open solo: asked of the server when the solo changes, and changed by requests that can be undone. */
import { api, type Schemas, sentence, take } from "@/api/client";
import { atHand, select, setCursor } from "@/score/cursor";
import { openDocument, phraseAt, useDocument } from "@/score/document";
import { useLook } from "@/score/look";
import { playerNow } from "@/score/playing";
import { hint } from "@/score/saving";
import { request, settled, tryRequest } from "@/score/sending";
import { shownNow, useShown } from "@/score/shown";
import { lineInHand, type PlanLine, setTeaching, teachingNow } from "@/score/teaching";

type What = PlanLine["what"];
export type LineChange = Partial<Omit<Schemas["LineChange"], "what">>;
export type RemarkRequest = Schemas["RemarkRequest"];

const SOON_MS = 150;
const solo = () => ({ solo_id: openDocument().bench?.solo_id ?? "" });
const reader = () => useLook.getState().reader;
const hand = () => useLook.getState().handSize;
let asked = 0;

export const readPlan = async (): Promise<void> => {
  const number = (asked += 1);
  try {
    await settled();
    const params = { path: solo(), query: { ...reader(), hand: hand() } };
    const plan = (await take(api.GET("/api/solos/{solo_id}/plan", { params }))) as Schemas["PlanView"];
    if (number === asked) setTeaching({ plan, message: "" });
  } catch (fault) {
    if (number === asked) setTeaching({ message: sentence(fault) });
  }
};

/** Whether anybody looks at the plan: in its own stage, or because remarks stand over the player. */
const wanted = (): boolean => shownNow().stage === "teach" || Object.keys(openDocument().elements.remarks).length > 0;

/** While it is looked at, the plan follows what is written. `line` : the one that is in hand first, from the address. */
export const followPlan = (line: string | null = null): (() => void) => {
  let soon: ReturnType<typeof setTimeout> | undefined;
  let stale = true;
  setTeaching({ plan: null, chosen: line, message: "" });
  const read = (wait: number) => {
    stale = true;
    if (!wanted()) return;
    stale = false;
    clearTimeout(soon);
    soon = setTimeout(() => void readPlan(), wait);
  };
  const ends = [
    useDocument.subscribe((now, before) => {
      if (now.elements !== before.elements || now.grid !== before.grid || now.versions !== before.versions)
        read(SOON_MS);
    }),
    useLook.subscribe((now, before) => {
      if (now.reader !== before.reader || now.handSize !== before.handSize) read(0);
    }),
    useShown.subscribe((now, before) => {
      if (now.stage !== before.stage && stale) read(0);
    }),
  ];
  read(0);
  return () => {
    clearTimeout(soon);
    asked += 1;
    for (const end of ends) end();
    setTeaching({ plan: null });
  };
};

/** Take a line in hand: its stair and its loop are laid, so that play begins it. */
export const choose = (line: PlanLine): void => {
  setTeaching({ chosen: line.key });
  setCursor({ tick: line.start });
  select(null);
  const player = playerNow();
  const { phrase } = line.what as { phrase?: string };
  if (line.kind === "phrase" && phrase !== undefined) void player?.loopOver({ phrase }, false);
  else void player?.loopOver({ from: line.start, to: line.end }, false);
  player?.setLadder({ rungs: line.steps.map(({ speed }) => speed), passes: line.passes, bySelf: true });
};

export const step = (by: 1 | -1): void => {
  const lines = teachingNow().plan?.lines ?? [];
  const at = lines.findIndex(({ key }) => key === lineInHand(teachingNow())?.key);
  const next = lines[Math.min(lines.length - 1, Math.max(0, at + by))];
  if (next !== undefined) choose(next);
};

type Ask = (solo_id: string) => Promise<Schemas["Answer"]>;

/** A change that the page asks for by itself: it says what went wrong. */
const changed = async (ask: Ask): Promise<boolean> => {
  const done = await request(ask);
  if (done) await readPlan();
  return done;
};

/** A change that a dialog asks for: what went wrong, or null. */
const tried = async (ask: Ask): Promise<string | null> => {
  const why = await tryRequest(ask);
  if (why === null) await readPlan();
  return why;
};

export const changeLine = (what: What, change: LineChange): Promise<string | null> =>
  tried((solo_id) =>
    take(
      api.POST("/api/solos/{solo_id}/plan/line", {
        params: { path: { solo_id }, query: reader() },
        body: { what, ...change } as Schemas["LineChange"],
      }),
    ),
  );

export const moveLine = (what: What, by: 1 | -1): Promise<boolean> =>
  changed((solo_id) =>
    take(
      api.POST("/api/solos/{solo_id}/plan/moved", {
        params: { path: { solo_id }, query: reader() },
        body: { what, by },
      }),
    ),
  );

/** Leave a line out of the plan; the one behind it is in hand then, of the last the one before. */
export const leaveOut = async (what: What): Promise<void> => {
  const lines = teachingNow().plan?.lines ?? [];
  const at = lines.findIndex((one) => one.what === what);
  const next = lines[at + 1] ?? lines[at - 1];
  const done = await changed((solo_id) =>
    take(
      api.POST("/api/solos/{solo_id}/plan/left-out", {
        params: { path: { solo_id }, query: reader() },
        body: { what },
      }),
    ),
  );
  if (done && next !== undefined) setTeaching({ chosen: next.key });
};

/** A line that was left out is in the plan again. */
export const putBack = async (what: What): Promise<void> => {
  const why = await changeLine(what, { left_out: false });
  if (why !== null) hint(why);
};

export const setPlan = (body: Schemas["PlanSettings"]): Promise<string | null> =>
  tried((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/plan/settings", { params: { path: { solo_id }, query: reader() }, body })),
  );

export const putRemark = (body: RemarkRequest): Promise<string | null> =>
  tried((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/remarks", { params: { path: { solo_id }, query: reader() }, body })),
  );

export const deleteRemark = (id: string): Promise<boolean> =>
  changed((solo_id) =>
    take(
      api.POST("/api/solos/{solo_id}/remarks/deleted", {
        params: { path: { solo_id }, query: reader() },
        body: { id },
      }),
    ),
  );

/** Second ways to play what a span holds, as the server works them out. */
export const secondWays = async (start: number, end: number): Promise<Schemas["SecondWayView"][]> =>
  (await take(
    api.GET("/api/solos/{solo_id}/second-ways", {
      params: { path: solo(), query: { ...reader(), start, end, hand: hand() } },
    }),
  )) as unknown as Schemas["SecondWayView"][];

/** What is marked is practised by itself from now on; without a mark the phrase at the cursor is in the plan already. */
export const practise = async (): Promise<void> => {
  const { selection, cursor } = atHand();
  if (selection === null) {
    const phrase = phraseAt(cursor.tick);
    hint(
      phrase === undefined
        ? "Mark the notes that are to be practised by themselves."
        : `The phrase “${phrase.name}” is in the plan. Mark some notes of it to practise them by themselves.`,
    );
    return;
  }
  const body = { start: selection.from, end: selection.to, name: "" };
  const done = await changed((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/plan/groups", { params: { path: { solo_id }, query: reader() }, body })),
  );
  if (!done) return;
  setTeaching({ chosen: `group:${selection.from}-${selection.to}` });
  hint("These notes are a line of the plan now.");
};
