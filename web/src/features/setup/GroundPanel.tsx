import { useEffect, useState } from "react";
import { api, type Schemas, take } from "@/api/client";
import { latest } from "@/api/latest";
import { useDocument } from "@/score/document";
import { useSaving } from "@/score/saving";
import { Tabs } from "@/ui/parts";
import { FormTab } from "./FormTab";
import { RecordingTab } from "./RecordingTab";
import { StringsTab } from "./StringsTab";
import type { Player } from "@/score/playing";
import { TimeTab } from "./TimeTab";

/** What is settled before the first note, and may be changed later: time, form, strings, and who plays on which recording. */
export function GroundPanel({ player }: { player: Player }) {
  const bench = useDocument((state) => state.bench);
  const messages = useSaving((state) => state.messages);
  const [meters, setMeters] = useState<Schemas["Offers"]["meters"]>([]);
  // Where this fails the meter in force is offered anyway.
  useEffect(() => latest(take(api.GET("/api/offers")), (offers) => setMeters(offers.meters)), []);
  if (bench === null) return null;
  const { strip } = bench;
  return (
    <section aria-label="Setup" className="grid min-h-0">
      <Tabs
        label="Parts of the setup"
        tabs={[
          { name: "Time", body: <TimeTab player={player} meters={meters} /> },
          { name: "Form and chords", body: <FormTab player={player} /> },
          { name: "Strings and pitch", body: <StringsTab /> },
          { name: "Recording", body: <RecordingTab /> },
        ]}
      >
        <p className="text-[14px] leading-tight text-ink-2" aria-label="Setup in words">
          {[strip.tempo, strip.key, strip.feel].filter(Boolean).join(" · ")}
        </p>
        {bench.tables.disputes.map((words) => (
          <p key={words} className="border-l-4 border-doubt pl-2 text-[14px] font-bold leading-tight">
            {words}
          </p>
        ))}
        {messages.length > 0 && (
          <ul role="status" aria-label="What was found" className="border-l-4 border-ink pl-2 text-[14px]">
            {messages.slice(0, 40).map((words) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
        )}
        <Violations />
      </Tabs>
    </section>
  );
}

/** What no longer fits after a change: it stays in the document and is listed. */
function Violations() {
  const violations = useDocument((state) => state.bench?.violations ?? []);
  if (violations.length === 0) return null;
  return (
    <section aria-label="What does not fit" className="border-l-4 border-doubt pl-2">
      <h3 className="text-[14px] font-bold">
        {violations.length === 1 ? "One thing does not fit" : `${violations.length} things do not fit`}; nothing was
        dropped.
      </h3>
      <ul className="text-[13px]">
        {violations.slice(0, 30).map((one) => (
          <li key={`${one.kind} ${one.id}`}>{one.sentence}</li>
        ))}
      </ul>
    </section>
  );
}
