/** What plays, and how; the player writes it, everything that shows it reads it here. */
import { create } from "zustand";
import type { Selection } from "./cursor";

export type Hear = "recording" | "writing" | "beside" | "together" | "turns" | "chords";
/** Steps of speed as the server laid them; `bySelf` goes up after so many passes, else a key does. */
export type Ladder = { readonly rungs: readonly number[]; readonly passes: number; readonly bySelf: boolean };
/** Ticks of what loops, and its frames in the recording. */
export type Loop = {
  readonly tick: number;
  readonly end: number;
  readonly startFrame: number;
  readonly endFrame: number;
  readonly phrase: string | null;
};

export type Playing = {
  readonly playing: boolean;
  readonly pending: boolean;
  readonly trouble: string | null;
  readonly share: number | null; // of the sound that is waited for
  readonly speed: number; // per mille
  readonly countIn: boolean;
  readonly clicks: boolean;
  readonly inTune: boolean;
  readonly trim: number; // cents
  readonly volume: number;
  readonly exact: boolean; // a loop of a phrase as it is, instead of whole bars
  readonly hear: Hear;
  readonly loop: Loop | null;
  readonly ladder: Ladder | null;
  readonly pass: number; // of the step that sounds, from 1
};

export const usePlaying = create<Playing>(() => ({
  playing: false,
  pending: false,
  trouble: null,
  share: null,
  speed: 1_000,
  countIn: false,
  clicks: false,
  inTune: false,
  trim: 0,
  volume: 0.25,
  exact: false,
  hear: "recording",
  loop: null,
  ladder: null,
  pass: 1,
}));
export const playingNow = usePlaying.getState;

/** The span that is asked to loop. */
export type Looped = Selection | { readonly phrase: string };

/** What features may ask of the player. */
export type Player = {
  readonly toggle: () => void;
  readonly stop: () => void;
  readonly setSpeed: (speed: number) => void;
  readonly setLadder: (ladder: Ladder | null) => void;
  readonly loopOver: (what: Looped, play: boolean) => Promise<void>;
  /** The recording, the writing, or both in one of three ways. */
  readonly setHear: (hear: Hear) => void;
  /** A moment of the recording, in seconds, looped as it is; the same again: silence. */
  readonly loopSeconds: (from: number, to: number) => void;
  /** Second of the recording that sounds now, or sounded at a time stamp of an event; null in silence. */
  readonly position: (at?: number) => number | null;
};

let current: Player | null = null;
/** The player of the open solo, for commands of other features. */
export const playerNow = (): Player | null => current;
export const setPlayer = (player: Player | null): void => {
  current = player;
};
