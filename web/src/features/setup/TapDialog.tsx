import { type KeyboardEvent, useRef, useState } from "react";
import { api, take } from "@/api/client";
import { useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { type Player, usePlaying } from "@/score/playing";
import { useSaving } from "@/score/saving";
import { request } from "@/score/sending";
import { Button, Dialog, Field } from "@/ui/parts";

/** Tap on every beat while it plays, with any key, a click or the pedal; the grid is laid through the taps. */
export function TapDialog({
  player,
  keepSeconds,
  onClose,
}: {
  player: Player;
  keepSeconds: boolean;
  onClose: () => void;
}) {
  const bars = useDocument((state) => state.bench?.strip.bars ?? []);
  const trouble = useSaving((state) => state.trouble);
  const playing = usePlaying((state) => state.playing);
  const [taps, setTaps] = useState<readonly number[]>([]);
  const [message, setMessage] = useState("Play, then tap once on every beat.");
  const cursor = useCursor((state) => state.cursor.tick);
  // Playing begins at the cursor, so the first tap is most likely its bar.
  const [from, setFrom] = useState({
    bar: String(bars.find((bar) => cursor >= bar.tick && cursor < bar.end)?.number ?? 1),
    beat: "1",
  });
  const pad = useRef<HTMLButtonElement>(null);
  const first = bars.find((bar) => String(bar.number) === from.bar)?.beats[Number(from.beat) - 1];
  const tap = (at: number) => {
    const second = player.position(at);
    if (second === null) {
      setMessage("Press Play first.");
      return;
    }
    const last = taps[taps.length - 1];
    if (last !== undefined && second <= last) {
      setTaps([second]);
      setMessage("The playback went back. Tap again from the first beat.");
    } else {
      setTaps([...taps, second]);
      setMessage("");
    }
  };
  const onKey = (event: KeyboardEvent) => {
    if (event.key === "Escape" || event.key === "Tab" || event.repeat) return;
    event.preventDefault();
    tap(event.timeStamp);
  };
  const lay = async () => {
    if (first === undefined) {
      setMessage("There is no such beat. Say on which bar and beat the first tap is.");
      return;
    }
    if (
      await request((solo_id) =>
        take(
          api.PUT("/api/solos/{solo_id}/taps", {
            params: { path: { solo_id } },
            body: { taps: [...taps], tick: first.tick, keep_seconds: keepSeconds },
          }),
        ),
      )
    )
      onClose();
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      title="Tap along"
    >
      <div className="flex flex-col gap-4">
        <div className="flex items-end gap-3">
          <Button
            onClick={() => {
              player.toggle();
              pad.current?.focus();
            }}
          >
            {playing ? "Stop" : "Play"}
          </Button>
          <div className="w-24">
            <Field
              label="First tap: bar"
              inputMode="numeric"
              value={from.bar}
              onChange={(event) => setFrom({ ...from, bar: event.target.value })}
            />
          </div>
          <div className="w-20">
            <Field
              label="beat"
              inputMode="numeric"
              value={from.beat}
              onChange={(event) => setFrom({ ...from, beat: event.target.value })}
            />
          </div>
        </div>
        <button
          ref={pad}
          type="button"
          autoFocus
          onKeyDown={onKey}
          onPointerDown={(event) => {
            event.preventDefault();
            pad.current?.focus();
            tap(event.timeStamp);
          }}
          className="grid h-40 place-items-center rounded-[6px] border-2 border-ink bg-paper text-center"
        >
          <span>
            <span className="block text-[44px] font-bold leading-none">{taps.length}</span>
            <span className="block text-[17px]">tap here: any key, a click, the pedal</span>
          </span>
        </button>
        <p role="status" aria-label="Tapping" className="min-h-6">
          {trouble ?? message}
        </p>
        <div className="flex justify-end gap-2">
          <Button quiet onClick={onClose}>
            Cancel
          </Button>
          <Button
            onClick={() => {
              setTaps([]);
              pad.current?.focus();
            }}
          >
            Again
          </Button>
          <Button strong disabled={taps.length < 4} onClick={() => void lay()}>
            Set the grid
          </Button>
        </div>
      </div>
    </Dialog>
  );
}
