import { useEffect, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { perform } from "@/score/commands";
import { setCursor, useBarHere, useCursor, useNoteInHand } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { capIn, keysOf } from "@/score/keymap";
import { useLook } from "@/score/look";
import {
  COMPANIES,
  companyWords,
  type Hints,
  type Offer,
  offersNow,
  setOffers,
  useOfferInHand,
  useOffers,
} from "@/score/offers";
import type { Player } from "@/score/playing";
import { Button, Key } from "@/ui/parts";
import { Select } from "@/ui/Select";
import { drawn } from "@/ui/signs";
import { NOTES } from "./commands";
import { hearOffer, leave, listen, nextSeconds, noOffer, offerAllAgain, toneOfOffer } from "./listening";
import { LISTENING, type ListeningCommand } from "./listeningCommands";

const TEXTURES = ["not said", "one line", "let ring", "two notes", "strum"] as const;
const SIDES = ["both", "left", "right", "centre", "sides"] as const;
const SMALL = "rounded-[4px] border border-rule-2 bg-sheet px-1 h-8";

/** Listen to a span: what was heard is offered, note by note, and taken or put right by keys. */
export function ListenTool({ player }: { player: Player }) {
  const recording = useDocument((state) => state.bench?.recording);
  const { estimate, found, message, hints } = useOffers();
  const [hinting, setHinting] = useState(false);
  const bent = (useNoteInHand()?.course.length ?? 0) > 0;
  const name = useSpanName();
  if (recording?.frames == null)
    return <p className="text-[15px]">There is no sound here to listen to. Add a recording on the shelf.</p>;
  return (
    <div className="flex flex-col gap-1 text-[14px]">
      <div className="flex flex-wrap items-center gap-2">
        {estimate === null ? (
          <>
            <Button strong onClick={() => perform(LISTENING.listen)}>
              Listen to {name}
            </Button>
            <Button onClick={() => void listen(nextSeconds(), { kept: true })}>Next four seconds</Button>
            <button
              type="button"
              aria-expanded={hinting}
              className="px-1 font-bold underline underline-offset-2"
              onClick={() => setHinting(!hinting)}
            >
              {hintWords(hints)}
            </button>
          </>
        ) : (
          <>
            <progress aria-label="Listening" value={estimate.share} className="h-3 w-40 accent-[var(--ink)]" />
            <span className="text-ink-2">
              {estimate.state === "waiting" ? "waiting for a worker" : `heard to ${Math.round(estimate.share * 100)} %`}
            </span>
            <Button quiet onClick={leave}>
              Cancel
            </Button>
          </>
        )}
        <p role="status" aria-label="What was heard" className="font-bold">
          {message !== "" ? message : (found?.sentence ?? "")}
        </p>
        {found !== null && found.left_out > 0 && (
          <Button quiet onClick={() => void offerAllAgain()}>
            Offer all again
          </Button>
        )}
      </div>
      {found !== null && bent && (
        <div className="flex">
          <OfferKey name="as heard">bend as heard</OfferKey>
        </div>
      )}
      {hinting && <HintsBar />}
      {found !== null && found.offers.length > 0 && <OffersBar player={player} offers={found.offers} />}
      {found !== null && <Corrections />}
    </div>
  );
}

/** The hints that are set, in words. */
const hintWords = (hints: Hints): string => {
  const said = [
    hints.texture === "not said" ? "" : hints.texture,
    hints.company === "not said" ? "" : hints.company,
    hints.side === "both" ? "" : hints.side,
    hints.lowest == null && hints.highest == null ? "" : "in a range",
    hints.more > 0 ? "more" : hints.more < 0 ? "fewer" : "",
    hints.half_step_down ? "half a step down" : "",
    hints.quick ? "quick" : "",
  ].filter(Boolean);
  return said.length === 0 ? "Hints" : `Hints: ${said.join(", ")}`;
};

/** What would be listened to now, in words. */
function useSpanName(): string {
  const selection = useCursor((state) => state.selection);
  const tick = useCursor((state) => state.cursor.tick);
  const phrases = useDocument((state) => state.elements.phrases);
  const bar = useBarHere();
  if (selection !== null) return "what is marked";
  const phrase = Object.values(phrases).find((one) => one.start <= tick && tick < one.end);
  if (phrase !== undefined) return phrase.name === "" ? "the phrase" : `“${phrase.name}”`;
  return `bar ${bar?.label ?? ""}`;
}

function HintsBar() {
  const hints = useOffers((state) => state.hints);
  const ahead = useOffers((state) => state.ahead);
  const set = (change: Partial<Hints>) => {
    setOffers({ hints: { ...offersNow().hints, ...change }, hinted: true });
    const { span } = offersNow();
    if (span !== null) void listen(span);
  };
  return (
    <div
      role="group"
      aria-label="Hints"
      className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule pb-1"
    >
      <Select
        small
        label="Notes at a time"
        options={TEXTURES.map((value) => ({
          value,
          words: value === "not said" ? "notes at a time: not said" : value,
        }))}
        value={hints.texture}
        onChoose={(texture) => set({ texture: texture as Hints["texture"] })}
      />
      <Select
        small
        label="Who plays"
        options={COMPANIES.map((value) => ({ value, words: companyWords(value) }))}
        value={hints.company}
        onChoose={(company) => set({ company: company as Hints["company"] })}
      />
      <Select
        small
        label="Where the solo stands"
        options={SIDES.map((value) => ({ value, words: value === "both" ? "left and right" : value }))}
        value={hints.side}
        onChoose={(side) => set({ side: side as Hints["side"] })}
      />
      <PitchField label="lowest" midi={hints.lowest} onPitch={(lowest) => set({ lowest })} />
      <PitchField label="highest" midi={hints.highest} onPitch={(highest) => set({ highest })} />
      <span className="flex items-center gap-1">
        <button
          type="button"
          className={`${SMALL} px-2`}
          disabled={hints.more <= -3}
          onClick={() => set({ more: hints.more - 1 })}
        >
          fewer
        </button>
        <span aria-label="More or fewer">{hints.more > 0 ? `+${hints.more}` : hints.more}</span>
        <button
          type="button"
          className={`${SMALL} px-2`}
          disabled={hints.more >= 3}
          onClick={() => set({ more: hints.more + 1 })}
        >
          more
        </button>
      </span>
      <Check
        label="half a step down"
        on={hints.half_step_down}
        onChange={(half_step_down) => set({ half_step_down })}
      />
      <Check label="quick" on={hints.quick} onChange={(quick) => set({ quick })} />
      <Check label="listen ahead while I write" on={ahead} onChange={(now) => setOffers({ ahead: now })} />
    </div>
  );
}

function Check({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-1">
      <input
        type="checkbox"
        className="size-4 accent-[var(--ink)]"
        checked={on}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}

/** A pitch that is typed; the server reads it. */
function PitchField({
  label,
  midi,
  onPitch,
}: {
  label: string;
  midi: number | null | undefined;
  onPitch: (midi: number | null) => void;
}) {
  const [text, setText] = useState("");
  const [fault, setFault] = useState("");
  useEffect(() => {
    if (midi == null) setText("");
  }, [midi]);
  const read = async () => {
    setFault("");
    if (text.trim() === "") {
      if (midi != null) onPitch(null);
      return;
    }
    try {
      const found = await take(api.POST("/api/check/pitch", { body: { text } }));
      setText(found.name);
      if (found.midi !== midi) onPitch(found.midi);
    } catch (wrong) {
      setFault(sentence(wrong));
    }
  };
  return (
    <label className="flex items-center gap-1" title={fault === "" ? undefined : fault}>
      {label}
      <input
        aria-label={`${label} note`}
        aria-invalid={fault !== ""}
        placeholder="E3"
        className={`${SMALL} w-12 ${fault === "" ? "" : "border-doubt"}`}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => void read()}
        onKeyDown={(event) => {
          if (event.key === "Enter") void read();
        }}
      />
      {fault !== "" && (
        <span role="alert" className="font-bold text-doubt">
          {fault}
        </span>
      )}
    </label>
  );
}

function OfferKey({ name, children }: { name: ListeningCommand; children: string }) {
  const keys = keysOf(useLook());
  return (
    <button
      type="button"
      className="flex items-center gap-[3px] rounded-[4px] px-[3px] py-[1px] hover:bg-paper max-sm:min-h-11 max-sm:px-2 max-sm:text-[16px]"
      onClick={() => perform(LISTENING[name])}
    >
      <span className="max-sm:hidden">
        {capIn({ ...NOTES, ...LISTENING }, LISTENING[name], keys).map((cap) =>
          cap === "⇧" ? `${cap} ` : <Key key={cap}>{cap}</Key>,
        )}
      </span>
      {children}
    </button>
  );
}

function OffersBar({ player, offers }: { player: Player; offers: readonly Offer[] }) {
  const offer = useOfferInHand();
  return (
    <>
      <p
        role="status"
        aria-live="polite"
        aria-label="Offer"
        className="font-naming text-[19px] font-semibold leading-[24px]"
      >
        {offer === null ? (noOffer() ?? "") : drawn(offer.says)}
        {offer !== null && offer.blocked !== "" && <span className="text-doubt"> {offer.blocked}</span>}
      </p>
      <div role="toolbar" aria-label="The offer" className="flex flex-wrap gap-x-2 gap-y-1">
        <OfferKey name="take offer">take</OfferKey>
        <OfferKey name="take sure">take the sure ones</OfferKey>
        <OfferKey name="take all">take all</OfferKey>
        <OfferKey name="other pitch">
          {offer?.others[0] === undefined ? "other pitch" : `${drawn(offer.others[0].name)} instead`}
        </OfferKey>
        <OfferKey name="octave">octave</OfferKey>
        <OfferKey name="slide or bend">{offer?.moving == null ? "slide or bend" : `${offer.moving} instead`}</OfferKey>
        <OfferKey name="no note">no note here</OfferKey>
        <button
          type="button"
          className="px-[3px] hover:bg-paper max-sm:min-h-11 max-sm:px-2 max-sm:text-[16px]"
          onClick={() => hearOffer(player)}
        >
          hear the moment
        </button>
        <button
          type="button"
          className="px-[3px] hover:bg-paper max-sm:min-h-11 max-sm:px-2 max-sm:text-[16px]"
          onClick={toneOfOffer}
        >
          hear its pitch
        </button>
      </div>
      <ol aria-label="Offers" className="flex flex-wrap gap-1">
        {offers.map((one) => (
          <li key={one.note.id}>
            <button
              type="button"
              aria-label={one.says}
              aria-current={one === offer}
              className={`rounded-[4px] px-[6px] ${one === offer ? "bg-pick text-paper" : "bg-tint/50 hover:bg-tint"} ${one.band === "guess" ? "border border-dashed border-heard" : ""}`}
              onClick={() => setCursor({ tick: one.note.tick, string: one.note.string })}
            >
              {one.name === "" ? "×" : drawn(one.name)}
              {one.band === "sure" ? "" : one.band === "likely" ? " ?" : " ??"}
            </button>
          </li>
        ))}
      </ol>
    </>
  );
}

/** Asked once: whether corrections may be kept for scoring. Off until somebody says yes. */
function Corrections() {
  const [consent, setConsent] = useState<Schemas["Consent"] | null>(null);
  useEffect(() => latest(take(api.GET("/api/corrections")), setConsent, () => undefined), []);
  const say = (keeps: boolean) => {
    setConsent({ keeps });
    void take(api.PUT("/api/corrections", { body: { keeps } })).then(setConsent, () => setConsent(consent));
  };
  if (consent === null) return null;
  if (consent.keeps === null)
    return (
      <p className="flex flex-wrap items-center gap-2 border-t border-rule pt-1 text-ink-2">
        Keep what you put right, on this machine, to measure how well it listens?
        <Button quiet onClick={() => say(true)}>
          Keep it
        </Button>
        <Button quiet onClick={() => say(false)}>
          No
        </Button>
      </p>
    );
  return <Check label="keep what I put right, for measuring" on={consent.keeps} onChange={say} />;
}
