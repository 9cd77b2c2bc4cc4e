import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Schemas, take } from "@/api/client";
import { select, useCursor } from "@/score/cursor";
import { useSaving } from "@/score/saving";
import { request } from "@/score/sending";
import { capOf } from "@/score/hand";
import { Button } from "@/ui/parts";
import { type Player, usePlaying } from "@/score/playing";

/** Tap every onset while it plays slowed; the taps become notes that wait for their frets. */
export function ByEarTool({ player }: { player: Player }) {
  const [taps, setTaps] = useState<readonly Schemas["TapMade"][]>([]);
  const [held, setHeld] = useState(false);
  const [message, setMessage] = useState("");
  const string = useCursor((state) => state.cursor.string);
  const found = useSaving((state) => state.messages);
  const playing = usePlaying((state) => state.playing);
  const speed = usePlaying((state) => state.speed);
  const pad = useRef<HTMLButtonElement>(null);
  const tap = useCallback(
    (at: number) => {
      const now = player.position(at);
      if (now === null) setMessage("Press Play first, then tap with every note.");
      else {
        setMessage("");
        setTaps((before) => [...before, { at: now }]);
      }
    },
    [player],
  );
  const letGo = useCallback(
    (at: number) => {
      const until = player.position(at);
      if (until !== null)
        setTaps((before) =>
          before.map((one, i) => (i === before.length - 1 && one.until === undefined ? { ...one, until } : one)),
        );
    },
    [player],
  );
  useEffect(() => pad.current?.focus(), []);
  const write = async () => {
    player.stop();
    if (
      await request((solo_id) =>
        take(
          api.POST("/api/solos/{solo_id}/onsets", {
            params: { path: { solo_id } },
            body: { taps: taps.map((one) => (held ? one : { at: one.at })), string },
          }),
        ),
      )
    ) {
      setTaps([]);
      select(null);
    }
  };
  return (
    <div className="flex flex-wrap items-center gap-3 text-[14px]">
      <button
        ref={pad}
        type="button"
        aria-label="Tap an onset"
        data-own-keys
        onPointerUp={(event) => letGo(event.timeStamp)}
        onKeyUp={(event) => letGo(event.timeStamp)}
        className="rounded-[4px] border-2 border-ink bg-paper px-8 py-4 text-[18px] font-bold"
        onPointerDown={(event) => {
          event.preventDefault();
          tap(event.timeStamp);
        }}
        onKeyDown={(event) => {
          if (
            !event.repeat &&
            !["Tab", "Escape", "PageDown", "PageUp"].includes(event.code) &&
            !event.ctrlKey &&
            !event.metaKey
          ) {
            event.preventDefault();
            tap(event.timeStamp);
          }
        }}
      >
        tap
      </button>
      <Button
        onClick={() => {
          player.toggle();
          pad.current?.focus();
        }}
      >
        {playing ? "Stop" : "Play"}
      </Button>
      <label className="flex items-center gap-2">
        speed{" "}
        <input
          type="number"
          aria-label="Speed while tapping"
          className="w-16 rounded-[4px] border border-rule-2 bg-sheet px-1"
          min={25}
          max={125}
          step={5}
          value={speed / 10}
          onChange={(event) => player.setSpeed(Number(event.target.value) * 10)}
        />{" "}
        %
      </label>
      <label className="flex items-center gap-2" title="else each lasts until the next">
        <input
          type="checkbox"
          className="size-4 accent-[var(--ink)]"
          checked={held}
          onChange={(event) => {
            setHeld(event.target.checked);
            pad.current?.focus();
          }}
        />
        notes last as long as the key is held, then rest
      </label>
      <p role="status" aria-label="Taps">
        <b>
          {taps.length} tap{taps.length === 1 ? "" : "s"}
        </b>{" "}
        {message}
      </p>
      <Button strong disabled={taps.length === 0} onClick={() => void write()}>
        Write them on string {string}
      </Button>
      <Button quiet disabled={taps.length === 0} onClick={() => setTaps([])}>
        Again
      </Button>
      <p className="w-full text-ink-2">
        Any key taps while the pad has the focus; {capOf("Escape")} goes back to the strip. The grid and the feel find
        the written step, the onset is kept as it was heard; then type the frets: a written place takes the waiting
        note. {found.join(" ")}
      </p>
    </div>
  );
}
