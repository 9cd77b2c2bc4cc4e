/** What the tools ask of the player. */
export type Playing = {
  readonly playing: boolean;
  readonly speed: number; // per mille
  readonly setSpeed: (speed: number) => void;
  readonly loopSpan: (from: number, to: number, play: boolean) => Promise<void>;
  readonly toggle: () => void;
  readonly stop: () => void;
  readonly position: (at?: number) => number | null;
};
