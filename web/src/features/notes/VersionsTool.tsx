import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { goTo } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { useSaving } from "@/score/saving";
import { compareTo, useShown } from "@/score/shown";
import { request } from "@/score/sending";
import { useDraft } from "@/ui/drafts";
import { KeptDraft } from "@/ui/InputDialog";
import { Button, Field } from "@/ui/parts";
import { useSend } from "@/ui/useSend";

type Rule = Schemas["Rule"];
const RULES: readonly Rule[] = [
  "without ornaments",
  "slides for bends",
  "single notes",
  "chord tones on the beat only",
  "in a straight feel",
];

/** Versions of this solo and other solos of its tune: made by rules, compared on the strip, kept up with their parent. */
export function VersionsTool() {
  const soloId = useDocument((state) => state.bench?.solo_id ?? "");
  const parent = useDocument((state) => state.bench?.solo.settings.parent);
  const messages = useSaving((state) => state.messages);
  const compared = useShown((state) => state.compared);
  const [kin, setKin] = useState<readonly (Schemas["Kin"] & { recording: string })[]>([]);
  const draft = useDraft(`version ${soloId}`, { name: "" });
  const { name } = draft.value;
  const id = useRef(crypto.randomUUID()); // of the next version: sent twice, it is made once
  const [rules, setRules] = useState<readonly Rule[]>([]);
  const [made, setMade] = useState<Schemas["NewVersion"] | null>(null);
  const [trouble, setTrouble] = useState("");
  useEffect(
    () =>
      latest(
        take(api.GET("/api/solos/{solo_id}/family", { params: { path: { solo_id: soloId } } })),
        (found) =>
          setKin(
            found
              .flatMap((one) => one.solos.map((solo) => ({ ...solo, recording: one.recording?.title ?? "" })))
              .filter((one) => one.solo_id !== soloId),
          ),
        (fault) => setTrouble(sentence(fault)),
      ),
    [soloId, made],
  );
  useEffect(() => () => compareTo(null), []);
  const compare = (other: string) => {
    take(api.GET("/api/solos/{solo_id}/compare", { params: { path: { solo_id: soloId }, query: { other } } })).then(
      compareTo,
      (fault: unknown) => setTrouble(sentence(fault)),
    );
  };
  const making = useSend(
    async () => {
      try {
        const params = { path: { solo_id: soloId } };
        setMade(
          await take(
            api.POST("/api/solos/{solo_id}/versions", { params, body: { id: id.current, name, rules: [...rules] } }),
          ),
        );
        return null;
      } catch (fault) {
        return sentence(fault);
      }
    },
    () => {
      id.current = crypto.randomUUID();
      draft.drop();
    },
  );
  return (
    <div className="grid grid-cols-1 gap-x-6 gap-y-2 text-[14px] lg:grid-cols-[1fr_1fr]">
      <form
        className="flex flex-col gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          making.send();
        }}
      >
        <Field
          label="A new version of this solo"
          required
          placeholder="for Mara, first term"
          value={name}
          onChange={(event) => draft.set({ name: event.target.value })}
        />
        <KeptDraft draft={draft} />
        <div role="group" aria-label="Rules" className="flex flex-wrap gap-x-4">
          {RULES.map((rule) => (
            <label key={rule} className="flex min-h-6 items-center gap-2">
              <input
                type="checkbox"
                className="size-4 accent-[var(--ink)]"
                checked={rules.includes(rule)}
                onChange={(event) =>
                  setRules(event.target.checked ? [...rules, rule] : rules.filter((one) => one !== rule))
                }
              />
              {rule}
            </label>
          ))}
        </div>
        <div className="flex flex-wrap items-center gap-2">
          <Button type="submit" strong disabled={making.busy}>
            Make the version
          </Button>
          {parent != null && (
            <Button
              onClick={() =>
                void request((solo_id) =>
                  take(api.POST("/api/solos/{solo_id}/bring-across", { params: { path: { solo_id } } })),
                )
              }
            >
              Bring across what changed in its parent
            </Button>
          )}
          <p role="status" aria-label="Versions">
            {(making.failed ?? trouble) ||
              (made === null ? (
                messages.join(" ")
              ) : (
                <>
                  {made.messages.join(" ")}{" "}
                  <Link className="font-bold underline" to={`/solos/${made.solo_id}/notes`}>
                    Open it
                  </Link>
                </>
              ))}
          </p>
        </div>
      </form>
      <div>
        <ul aria-label="Other solos of this tune" className="flex flex-col gap-1">
          {kin.map((one) => (
            <li key={one.solo_id} className="flex flex-wrap items-center gap-2">
              <Link className="font-bold underline" to={`/solos/${one.solo_id}/notes`}>
                {one.title || "untitled"}
              </Link>
              <span className="text-ink-2">
                {parent?.document === one.solo_id ? "the one it was made from" : one.recording}
              </span>
              <button
                type="button"
                aria-label={`Compare with ${one.title}`}
                className="underline"
                onClick={() => compare(one.solo_id)}
              >
                compare
              </button>
            </li>
          ))}
          {kin.length === 0 && <li className="text-ink-2">No other solo of this tune is here yet.</li>}
        </ul>
        {compared !== null && <Differences found={compared} />}
      </div>
    </div>
  );
}

/** What differs, place by place; the strip shows the same. */
export function Differences({ found }: { found: Schemas["Comparison"] }) {
  return (
    <div className="mt-1">
      <p role="status" aria-label="Comparison">
        <b>Beside {found.title}:</b> {found.sentence}{" "}
        <button type="button" className="underline" onClick={() => compareTo(null)}>
          done
        </button>
      </p>
      <ul aria-label="Differences">
        {found.differences.map((one) => (
          <li key={`${one.here ?? ""} ${one.there ?? ""}`}>
            <button
              type="button"
              className="text-left underline-offset-2 hover:underline"
              onClick={() => goTo(one.tick, one.here)}
            >
              {one.sentence}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
