import { useEffect, useRef } from "react";
import { hearLick, stop } from "@/score/hearing";
import { PlayButton } from "@/score/PlayButton";
import { Button } from "@/ui/parts";
import { drawn } from "@/ui/signs";
import { closePlaces, usePlayers } from "./portrait";

/** The notes that a figure counts: phrase by phrase, each heard, each opened at its place. */
export function PlacesPanel({ onOpenNotes }: { onOpenNotes: (solo: string, note: string) => void }) {
  const opened = usePlayers((state) => state.opened);
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    heading.current?.focus();
    return stop;
  }, [opened?.group, opened?.answer]);
  if (opened === null) return null;
  const { places } = opened;
  return (
    <aside
      aria-label="The notes that it counts"
      className="sticky top-0 h-[calc(100vh-60px)] w-[320px] overflow-y-auto border-l border-rule bg-sheet px-5 py-4 max-lg:static max-lg:h-auto max-lg:w-auto print:hidden"
      onKeyDown={(event) => event.key === "Escape" && closePlaces()}
    >
      <div className="flex items-start justify-between gap-2">
        <h2 ref={heading} tabIndex={-1} className="font-naming text-[20px] font-semibold leading-6">
          {places === null ? "One moment …" : drawn(places.label)}
        </h2>
        <Button quiet size="small" onClick={closePlaces}>
          Close
        </Button>
      </div>
      {places !== null && (
        <>
          <p className="text-[14px] text-ink-2">
            {drawn(places.title)} · {places.count}
          </p>
          <ul className="mt-2">
            {places.places.map((place) => {
              const key = `${place.solo} ${place.first} ${place.last} ${place.notes.join(" ")}`;
              return (
                <li key={key} className="flex items-center gap-3 border-b border-rule py-1.5">
                  <PlayButton
                    small
                    sound={key}
                    label={`Hear ${place.tune}, phrase ${place.phrase}`}
                    onPlay={() =>
                      hearLick(key, {
                        which: { solo: place.solo, first: place.first, last: place.last },
                        there: { direction: "nearest" },
                        recorded: place.has_sound,
                      })
                    }
                  />
                  <button
                    type="button"
                    className="min-w-0 flex-1 text-left hover:underline"
                    onClick={() => onOpenNotes(place.solo, place.notes[0] ?? place.first)}
                  >
                    <span className="block truncate font-bold">{place.tune}</span>
                    <span className="block truncate text-[14px] text-ink-2">
                      {[place.title, `phrase ${place.phrase}`].filter(Boolean).join(" · ")}
                      {place.notes.length > 1 && `, ${place.notes.length} notes`}
                    </span>
                  </button>
                </li>
              );
            })}
          </ul>
        </>
      )}
    </aside>
  );
}
