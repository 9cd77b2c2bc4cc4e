/** A player's page: whose figures, beside whose, and the notes of the figure that is open. */
import { create } from "zustand";
import { api, type Schemas, sentence, take } from "@/api/client";

export type Portrait = Schemas["PortraitView"];
export type Figure = Schemas["FigureView"];
export type Group = Schemas["GroupView"];
export type Places = Schemas["PlacesView"];
/** Which of a player's solos are counted. */
export type Side = {
  readonly player: string;
  readonly tune: string;
  readonly since: string;
  readonly until: string;
  readonly setting: string;
};
export const sideOf = (player: string): Side => ({ player, tune: "", since: "", until: "", setting: "" });

type State = {
  readonly players: readonly Schemas["PlayerView"][] | null;
  readonly side: Side | null;
  readonly beside: Side | null;
  readonly portrait: Portrait | null;
  readonly opened: { readonly group: string; readonly answer: string; readonly places: Places | null } | null;
  readonly trouble: string | null;
};
export const usePlayers = create<State>(() => ({
  players: null,
  side: null,
  beside: null,
  portrait: null,
  opened: null,
  trouble: null,
}));
const set = usePlayers.setState;
const now = usePlayers.getState;

export const loadPlayers = async (): Promise<void> => {
  try {
    set({ players: await take(api.GET("/api/players")), trouble: null });
  } catch (fault) {
    set({ trouble: sentence(fault) });
  }
};

const given = (entries: Readonly<Record<string, string>>): Record<string, string> =>
  Object.fromEntries(Object.entries(entries).filter(([, value]) => value !== ""));

/** What is asked of the server for both sides, as query parameters. */
export const queryOf = (side: Side, beside: Side | null): Record<string, string> => ({
  ...given({ tune: side.tune, since: side.since, until: side.until, setting: side.setting }),
  ...(beside === null
    ? {}
    : given({
        beside: beside.player,
        beside_tune: beside.tune,
        beside_since: beside.since,
        beside_until: beside.until,
        beside_setting: beside.setting,
      })),
});

let turn = 0;
export const show = async (side: Side, beside: Side | null): Promise<void> => {
  const own = (turn += 1);
  set({ side, beside, opened: null });
  try {
    const portrait = await take(
      api.GET("/api/players/{player_id}", {
        params: { path: { player_id: side.player }, query: queryOf(side, beside) as never },
      }),
    );
    if (own === turn) set({ portrait: portrait as unknown as Portrait, trouble: null });
  } catch (fault) {
    if (own === turn) set({ trouble: sentence(fault), portrait: null });
  }
};

/** Open the notes that a figure counts; once more closes them. */
export const open = async (group: string, answer: string): Promise<void> => {
  const { side, opened } = now();
  if (side === null) return;
  if (opened?.group === group && opened.answer === answer) {
    set({ opened: null });
    return;
  }
  set({ opened: { group, answer, places: null } });
  try {
    const query = { ...queryOf(side, null), group, answer };
    const places = await take(
      api.GET("/api/players/{player_id}/notes", {
        params: { path: { player_id: side.player }, query: query as never },
      }),
    );
    if (now().opened?.group === group && now().opened?.answer === answer) set({ opened: { group, answer, places } });
  } catch (fault) {
    set({ trouble: sentence(fault), opened: null });
  }
};
export const closePlaces = (): void => set({ opened: null });
