import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Schemas, take } from "@/api/client";
import { latest } from "@/api/latest";
import { atHand } from "@/score/cursor";
import { openDocument, phraseAt, useDocument } from "@/score/document";
import { setLook, useLook } from "@/score/look";
import { act, request } from "@/score/sending";
import { drawMap, preview, shownNow, useShown } from "@/score/shown";
import { Button } from "@/ui/parts";
import { askWays, takeWay } from "./fingerings";
import { Select } from "@/ui/Select";

const STAYS_SAID = 8;
const stayWords = ({ position, lowest, highest, grip }: Schemas["Stay"]): string => {
  const frets =
    lowest === null ? "open strings" : lowest === highest ? `fret ${lowest}` : `frets ${lowest} to ${highest}`;
  return [`position ${position}`, frets, grip].filter(Boolean).join(", ");
};

/** Where else: ways that differ in kind, on the neck, to be heard, one key to take; bends out of reach; the map of the hand. */
export function HandTool() {
  const size = useLook((look) => look.handSize);
  const ways = useShown((state) => state.ways);
  const soloId = useDocument((state) => state.bench?.solo_id ?? "");
  const elements = useDocument((state) => state.elements);
  const [message, setMessage] = useState("");
  const [map, setMap] = useState<Schemas["HandMap"] | null>(null);
  const [drawn, setDrawn] = useState(false);
  const sound = useRef<HTMLAudioElement>(null);
  const ask = useCallback((span?: { from: number; to: number } | null) => {
    void askWays(span).then((trouble) => setMessage(trouble ?? ""));
  }, []);
  useEffect(() => {
    if (shownNow().ways === null) ask();
  }, []); // eslint-disable-line react-hooks/exhaustive-deps -- once, when it is opened
  useEffect(
    () => () => {
      preview(null);
      drawMap(null);
    },
    [],
  );
  useEffect(() => drawMap(drawn ? map : null), [drawn, map]);
  const from = ways?.from;
  const to = ways?.to;
  useEffect(() => {
    if (from === undefined || to === undefined) return undefined;
    return latest(
      take(
        api.GET("/api/solos/{solo_id}/hand-map", {
          params: { path: { solo_id: soloId }, query: { start: from, end: to, hand: size } },
        }),
      ),
      setMap,
      () => setMap(null),
    );
  }, [soloId, from, to, size, elements]);
  const whole = () => {
    const ticks = Object.values(elements.notes).map((note) => note.tick);
    ask(ticks.length === 0 ? null : { from: Math.min(...ticks), to: Math.max(...ticks) + 1 });
  };
  const phraseHere = () => {
    const phrase = phraseAt(atHand().cursor.tick);
    ask(phrase === undefined ? null : { from: phrase.start, to: phrase.end });
  };
  const hear = async (way: Schemas["WayOffer"]) => {
    const out = sound.current;
    if (out === null || ways === null) return;
    const places = way.places.map(({ note, string, fret }) => ({ note, string, fret }));
    const answer = await fetch(`/api/solos/${soloId}/try-out`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ start: ways.from, end: ways.to, speed: 800, places }),
    });
    if (!answer.ok) {
      setMessage("This cannot be played just now.");
      return;
    }
    URL.revokeObjectURL(out.src);
    out.src = URL.createObjectURL(await answer.blob());
    out.volume = 0.4;
    await out.play();
  };
  const pin = async () => {
    if (ways === null) return;
    const held = ways.found.pinned;
    const notes = held.length > 0 ? held : (ways.found.ways[0]?.places.map((place) => place.note) ?? []);
    const span = { from: ways.from, to: ways.to };
    if (
      await request((solo_id) =>
        take(
          api.PUT("/api/solos/{solo_id}/pins", {
            params: { path: { solo_id } },
            body: { notes: [...notes], pinned: held.length === 0 },
          }),
        ),
      )
    )
      ask(span);
  };
  const shown = ways?.found.ways[ways.at];
  return (
    <div className="flex flex-col gap-1 text-[14px]">
      <div className="flex flex-wrap items-center gap-2">
        <Button size="small" onClick={() => ask()}>
          This
        </Button>
        <Button size="small" onClick={phraseHere}>
          The phrase
        </Button>
        <Button size="small" onClick={whole}>
          The solo
        </Button>
        <span className="flex items-center gap-1">
          <span aria-hidden>hand</span>
          <Select
            small
            label="hand"
            options={["small", "usual", "large"]}
            value={size}
            onChoose={(value) => {
              setLook({ handSize: value as Schemas["HandSize"] });
              ask(from === undefined || to === undefined ? undefined : { from, to });
            }}
          />
        </span>
        {ways !== null && ways.found.ways.length > 0 && (
          <Button
            size="small"
            aria-pressed={ways.found.pinned.length > 0}
            title="no search moves a pinned note"
            onClick={() => void pin()}
          >
            {ways.found.pinned.length > 0 ? `Let go of ${ways.found.pinned.length} pinned` : "Pin as written"}
          </Button>
        )}
        {map !== null && map.stays.length > 0 && (
          <Button
            size="small"
            aria-pressed={drawn}
            title="the positions of the span on the whole neck"
            onClick={() => setDrawn(!drawn)}
          >
            Map
          </Button>
        )}
        <p role="status" aria-label="Fingering">
          {message}
        </p>
      </div>
      {ways !== null && (
        <ol aria-label="Fingerings" className="flex flex-wrap gap-2">
          {ways.found.ways.map((way, i) => (
            <li
              key={`${way.title} ${way.cost}`}
              className={`flex items-center gap-1 border-l-4 pl-2 ${i === ways.at ? "border-pick" : "border-rule"}`}
            >
              <button
                type="button"
                aria-pressed={i === ways.at}
                className="font-bold"
                onClick={() => preview({ ...ways, at: i })}
              >
                {way.title}
              </button>
              <span className="text-ink-2">{way.written ? "as written" : `costs ${way.cost.toFixed(1)}`}</span>
              <button
                type="button"
                aria-label={`Hear: ${way.title}`}
                className="underline"
                onClick={() => void hear(way)}
              >
                hear
              </button>
              {!way.written && (
                <button
                  type="button"
                  aria-label={`Take: ${way.title}`}
                  className="font-bold underline"
                  onClick={() => {
                    preview({ ...ways, at: i });
                    takeWay();
                  }}
                >
                  take
                </button>
              )}
            </li>
          ))}
        </ol>
      )}
      {shown !== undefined && (
        <p aria-label="Why" className="leading-snug text-ink-2">
          {shown.reasons.join(" ")}
        </p>
      )}
      {ways?.found.bends.map((bend) => (
        <p key={bend.note} className="border-l-4 border-doubt pl-2">
          {bend.sentence}{" "}
          {bend.offers.map((offer) => (
            <button
              key={offer.words}
              type="button"
              className="mr-2 font-bold underline"
              onClick={() => {
                const note = openDocument().elements.notes[bend.note];
                if (note !== undefined)
                  act({
                    label: offer.words,
                    changes: [{ kind: "note", id: note.id, before: note, after: offer.note }],
                    picked: note.id,
                  });
                ask();
              }}
            >
              {offer.words}
            </button>
          ))}
        </p>
      ))}
      {map !== null && (
        <p aria-label="Hand map">
          {map.sentence} In turn: {map.stays.slice(0, STAYS_SAID).map(stayWords).join("; ")}
          {map.stays.length > STAYS_SAID ? ` … and ${map.stays.length - STAYS_SAID} more` : ""}.
        </p>
      )}
      <audio ref={sound} aria-label="This fingering" />
    </div>
  );
}
