import { useState } from "react";
import { Button, Dialog } from "@/ui/parts";
import { search, setBook } from "./book";

const NAMES = ["E", "B", "G", "D", "A", "E"];
const STRINGS = NAMES.map((name, i) => ({ number: i + 1, name }));
const FRETS = 15;
const [CELL, ROW, LEFT, TOP] = [52, 30, 34, 12];

/** Places clicked one after another: the server searches the steps between them, in every key. */
export function NeckInput({ onClose }: { onClose: () => void }) {
  const [places, setPlaces] = useState<readonly { string: number; fret: number }[]>([]);
  const text = places.map(({ string, fret }) => `${string}/${fret}`).join(" ");
  const done = () => {
    setBook({ text, near: null });
    void search();
    onClose();
  };
  return (
    <Dialog open wide onOpenChange={(open) => !open && onClose()} title="Play it on the neck">
      <p className="mb-2 text-ink-2">
        Click the notes in the order in which they sound, in standard tuning. They are found in every key.
      </p>
      <div className="overflow-x-auto">
        <div
          role="group"
          aria-label="Neck"
          className="relative"
          style={{ width: LEFT + CELL * (FRETS + 1), height: TOP + ROW * STRINGS.length + 22 }}
        >
          {STRINGS.map(({ number, name }) => (
            <div key={number}>
              <span className="absolute text-[14px] text-ink-2" style={{ left: 8, top: TOP + ROW * (number - 1) + 4 }}>
                {name}
              </span>
              <span
                aria-hidden
                className="absolute bg-ink-3"
                style={{
                  left: LEFT,
                  width: CELL * (FRETS + 1),
                  top: TOP + ROW * (number - 1) + ROW / 2,
                  height: 0.8 + number * 0.3,
                }}
              />
              {Array.from({ length: FRETS + 1 }, (_, fret) => {
                const order = places.flatMap((one, i) => (one.string === number && one.fret === fret ? [i + 1] : []));
                return (
                  <button
                    key={fret}
                    type="button"
                    aria-label={`String ${number}, fret ${fret}`}
                    className="absolute grid place-items-center border-r border-rule-2 hover:bg-tint/40"
                    style={{ left: LEFT + CELL * fret, top: TOP + ROW * (number - 1), width: CELL, height: ROW }}
                    onClick={() => setPlaces([...places, { string: number, fret }])}
                  >
                    {order.length > 0 && (
                      <span className="rounded-[4px] bg-ink px-2 font-bold text-paper">{order.join(" ")}</span>
                    )}
                  </button>
                );
              })}
            </div>
          ))}
          {[3, 5, 7, 9, 12, 15].map((fret) => (
            <span
              key={fret}
              className="absolute text-[14px] text-ink-2"
              style={{ left: LEFT + CELL * fret + CELL / 2 - 6, top: TOP + ROW * STRINGS.length + 2 }}
            >
              {fret}
            </span>
          ))}
        </div>
      </div>
      <p role="status" aria-label="Places" className="mt-2 min-h-6 font-bold">
        {text}
      </p>
      <div className="mt-3 flex justify-end gap-2">
        <Button quiet onClick={() => setPlaces(places.slice(0, -1))} disabled={places.length === 0}>
          Take back the last
        </Button>
        <Button strong onClick={done} disabled={places.length < 2}>
          Search
        </Button>
      </div>
    </Dialog>
  );
}
