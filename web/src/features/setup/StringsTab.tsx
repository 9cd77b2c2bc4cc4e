import { useEffect, useRef, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { useDocument } from "@/score/document";
import { request } from "@/score/sending";
import { Button, Field } from "@/ui/parts";
import { Hear } from "./Hear";
import { type Retune, RetuneDialog } from "./RetuneDialog";
import { Settle, settle, SettleNumber } from "./settle";

/** The strings and how they are tuned, and how far the recording lies from them. */
export function StringsTab() {
  const bench = useDocument((state) => state.bench);
  const written = useDocument((state) => Object.keys(state.elements.notes).length > 0);
  const [retune, setRetune] = useState<Retune | null>(null);
  const [message, setMessage] = useState("");
  const [tone, setTone] = useState("A4");
  const sound = useRef<HTMLAudioElement>(null);
  const [low, setLow] = useState<Schemas["SoundsLow"] | null>(null);
  const soloId = bench?.solo_id;
  const version = useDocument((state) => (soloId === undefined ? 0 : state.versions[soloId]));
  useEffect(() => {
    if (soloId === undefined) return undefined;
    // What fails is asked again with the next change.
    return latest(take(api.GET("/api/solos/{solo_id}/sounds-low", { params: { path: { solo_id: soloId } } })), setLow);
  }, [soloId, version]);
  if (bench === null) return null;
  const { settings } = bench.solo;
  const offset = bench.ground.settings.offset_cents;
  const sleeve = (change: {
    gauges?: string;
    scale_length_mm?: number;
    wound_kg_m3?: number;
    strung_for?: string;
    bottleneck?: boolean;
    muted_behind?: boolean;
  }) =>
    request((solo_id) =>
      take(
        api.PUT("/api/solos/{solo_id}/sleeve", {
          params: { path: { solo_id } },
          body: { credits: settings.credits, rig: settings.rig, ends_continuing: false, ...change },
        }),
      ),
    );
  const ask = (wanted: Retune) => {
    setRetune(wanted);
    return Promise.resolve(false);
  };
  const sixString = () => {
    take(api.GET("/api/solos/{solo_id}/six-string", { params: { path: { solo_id: bench.solo_id } } })).then(
      (found) => {
        setMessage("");
        setRetune({ tuning: found.tuning, capo: null, why: found.sentence });
      },
      (fault: unknown) => setMessage(sentence(fault)),
    );
  };
  const playTone = () => {
    const out = sound.current;
    if (out === null) return;
    out.src = `/api/solos/${bench.solo_id}/tone?${new URLSearchParams({ name: tone, at: String(offset) }).toString()}`;
    out.volume = 0.4;
    out.play().then(
      () => setMessage(""),
      () => setMessage(`“${tone}” cannot be played: write a note with its octave, A4 or Eb3.`),
    );
  };
  return (
    <div className="grid grid-cols-1 gap-x-8 gap-y-3 lg:grid-cols-2">
      <div className="flex flex-col gap-2">
        <div className="grid grid-cols-[1.6fr_5rem_6rem_7rem] gap-3">
          <Settle
            label="Tuning"
            value={[...bench.tables.strings]
              .reverse()
              .map((string) => string.name)
              .join(" ")}
            onSettle={(value) => ask({ tuning: value, capo: null })}
            hint="low to high, 4 to 8 strings"
          />
          <SettleNumber
            label="Capo"
            value={String(settings.capo)}
            onSettle={(value) => ask({ tuning: null, capo: value })}
          />
          <SettleNumber
            label="Last fret"
            value={String(settings.last_fret)}
            onSettle={(value) => settle({ last_fret: value })}
          />
          <div className="flex flex-col gap-1 pt-6">
            <label className="flex items-center gap-2 font-bold">
              <input
                type="checkbox"
                className="size-4 accent-[var(--ink)]"
                checked={settings.bottleneck}
                onChange={(event) => void sleeve({ bottleneck: event.target.checked })}
              />
              Slide
            </label>
            {settings.bottleneck && (
              <label
                className="flex items-center gap-2 whitespace-nowrap text-[14px]"
                title="a finger lies on the strings behind the slide; without it their rest rings along"
              >
                <input
                  type="checkbox"
                  className="size-4 accent-[var(--ink)]"
                  checked={settings.muted_behind}
                  onChange={(event) => void sleeve({ muted_behind: event.target.checked })}
                />
                muted behind
              </label>
            )}
          </div>
        </div>
        <div className="grid grid-cols-[1.2fr_1fr_5rem_7rem] items-start gap-3">
          <Settle
            label="Gauges, thinnest first"
            value={bench.tables.gauges}
            hint="10 13 17 26w …"
            onSettle={(gauges) => sleeve({ gauges })}
          />
          <Settle
            label="Set strung for"
            value={bench.tables.strung_for}
            hint="its usual tuning"
            onSettle={(strung_for) => sleeve({ strung_for })}
          />
          <SettleNumber
            label="Scale, mm"
            value={String(settings.scale_length_mm)}
            onSettle={(value) => sleeve({ scale_length_mm: value })}
          />
          <SettleNumber
            label="Wound, kg/m³"
            value={String(settings.wound_kg_m3)}
            hint="an estimate"
            onSettle={(wound_kg_m3) => sleeve({ wound_kg_m3 })}
          />
        </div>
        <div className="flex flex-wrap items-center gap-3">
          <Button onClick={sixString}>Rewrite for a six-string …</Button>
          <p role="status" aria-label="Strings" className="text-[14px]">
            {message}
          </p>
        </div>
        {low?.tuning != null && (
          <p className="border-l-4 border-doubt pl-3 text-[14px]">
            {low.sentence}{" "}
            <button
              type="button"
              className="font-bold underline"
              onClick={() => setRetune({ tuning: low.tuning, capo: null })}
            >
              Look at that tuning
            </button>
          </p>
        )}
      </div>
      <div className="flex flex-col gap-2">
        <div className="flex flex-wrap items-end gap-2">
          <div className="w-28">
            <SettleNumber
              label="Off by cents"
              value={String(offset)}
              onSettle={(value) => settle({ offset_cents: value })}
            />
          </div>
          <Button
            size="narrow"
            aria-label="−1 cent"
            onClick={() => void settle({ offset_cents: Math.round(10 * (offset - 1)) / 10 })}
          >
            −1
          </Button>
          <Button
            size="narrow"
            aria-label="+1 cent"
            onClick={() => void settle({ offset_cents: Math.round(10 * (offset + 1)) / 10 })}
          >
            +1
          </Button>
          <div className="w-20">
            <Field label="Tone" value={tone} onChange={(event) => setTone(event.target.value)} />
          </div>
          <Button onClick={playTone}>Play the tone</Button>
          <audio ref={sound} aria-label="Reference tone" />
        </div>
        <p className="text-[14px] text-ink-2">
          Heard minus written. The tone sounds as far off as this: trim until it agrees with the recording.{" "}
          <b>In tune</b> beside the play button takes it out of what you hear; hearing chords reckons with it, or not,
          as you choose there.
        </p>
        {bench.recording !== null && (
          <Hear label="Measure the pitch" kind="offset" soloId={bench.solo_id}>
            {({ cents }, done) =>
              cents == null ? null : (
                <>
                  <Button
                    strong
                    onClick={() => {
                      void settle({ offset_cents: cents });
                      done();
                    }}
                  >
                    Use {cents > 0 ? "+" : ""}
                    {cents}
                  </Button>
                  <span className="w-full text-[14px] text-ink-2">
                    Measured within half a semitone only. For a tape that is further off, or strings tuned down, trim by
                    ear.
                  </span>
                </>
              )
            }
          </Hear>
        )}
      </div>
      {retune !== null && (
        <RetuneDialog
          soloId={bench.solo_id}
          wanted={retune}
          written={written}
          onClose={() => setRetune(null)}
          onChoose={(keep_pitches) => {
            setRetune(null);
            void settle({ tuning: retune.tuning, capo: retune.capo, keep_pitches });
          }}
        />
      )}
    </div>
  );
}
