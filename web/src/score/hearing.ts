/** One sound at a time, rendered by the server: a lick's own, or the program's guitar. */
import { create } from "zustand";
import { api, type Schemas, sentence, take } from "@/api/client";

type Hearing = { readonly playing: string | null; readonly pending: string | null; readonly trouble: string | null };
export const useHearing = create<Hearing>(() => ({ playing: null, pending: null, trouble: null }));
const set = useHearing.setState;

const LEVEL = 0.5;
let context: AudioContext | null = null;
let sounding: AudioBufferSourceNode | null = null;
let turn = 0;

export const stop = (): void => {
  turn += 1;
  sounding?.stop();
  sounding = null;
  set({ playing: null, pending: null });
};

const play = async (key: string, fetched: () => Promise<ArrayBuffer>): Promise<void> => {
  const again = useHearing.getState().playing === key || useHearing.getState().pending === key;
  stop();
  if (again) return;
  const own = turn;
  set({ pending: key, trouble: null });
  try {
    context ??= new AudioContext({ sampleRate: 48_000 });
    await context.resume();
    const buffer = await context.decodeAudioData(await fetched());
    if (own !== turn) return;
    const source = context.createBufferSource();
    const level = context.createGain();
    level.gain.value = LEVEL;
    source.buffer = buffer;
    source.connect(level).connect(context.destination);
    source.onended = () => {
      if (own === turn) stop();
    };
    source.start();
    sounding = source;
    set({ playing: key, pending: null });
  } catch (fault) {
    if (own === turn) set({ pending: null, playing: null, trouble: sentence(fault) });
  }
};

type Sound = Omit<
  Schemas["SoundRequest"],
  "speed" | "clicks" | "chords" | "part" | "recorded" | "twelve" | "vamp" | "over"
> &
  Partial<Schemas["SoundRequest"]>;

/** Hear a lick, or stop it when it sounds. */
export const hearLick = (key: string, sound: Sound): void =>
  void play(key, () => take(api.POST("/api/licks/sound", { body: sound as never, parseAs: "arrayBuffer" })));

export const hearQuote = (key: string, body: Schemas["HeardQuote"]): void =>
  void play(key, () => take(api.POST("/api/licks/quote/sound", { body, parseAs: "arrayBuffer" })));
