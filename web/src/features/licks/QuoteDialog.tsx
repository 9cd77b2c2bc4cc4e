import { useEffect, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { LickFigure } from "@/score/LickFigure";
import { useDraft } from "@/ui/drafts";
import { Area, Button, Dialog, Field } from "@/ui/parts";
import { Select } from "@/ui/Select";
import { drawn } from "@/ui/signs";
import { type QuoteItem, setBook, useBook } from "./book";
import { hearQuote } from "@/score/hearing";
import { PlayButton } from "@/score/PlayButton";
import { useSend } from "@/ui/useSend";
import { useWidth } from "@/ui/useWidth";

type Form = Schemas["QuoteBody"];
const FORMS = ["12-bar", "minor 12-bar", "8-bar", "16-bar"] as const;
const KEYS = ["C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"];
const FEELS = [
  { value: "", words: "as the chart says" },
  { value: "straight", words: "straight" },
  { value: "swing 1.6", words: "light swing" },
  { value: "swing 2", words: "swing" },
  { value: "triplet", words: "triplets" },
];
const PATIENCE_MS = 250;

/** Licks set over a form: joins judged, better orders offered, the chorus heard and saved. */
export function QuoteDialog({ onClose, onSaved }: { onClose: () => void; onSaved: (solo: string) => void }) {
  const items = useBook((state) => state.quote);
  const draft = useDraft("quote", { form: "12-bar", key: "C", own: "", tempo: "110", vamp: "", feel: "", title: "" });
  const { form, key, own, tempo, feel, title } = draft.value;
  const vamp = draft.value.vamp !== "";
  const [given, setGiven] = useState(""); // the chart of the form, or of a solo
  const chart = form === "own" ? own : given;
  const [id] = useState(() => crypto.randomUUID());
  const [view, setView] = useState<Schemas["QuoteView"] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [charts, setCharts] = useState<readonly { value: string; words: string }[]>([]);
  const [box, width] = useWidth(820);

  useEffect(() => {
    take(api.GET("/api/shelf"))
      .then(({ solos }) =>
        setCharts(
          solos
            .filter(({ removed }) => !removed)
            .map(({ id, tune, title: which }) => ({
              value: id,
              words: `the chart of ${tune}${which === "" ? "" : `, ${which}`}`,
            })),
        ),
      )
      .catch((fault: unknown) => setTrouble(sentence(fault)));
  }, []);
  useEffect(() => {
    if (form === "own") return;
    const asked = FORMS.includes(form as never)
      ? take(
          api.GET("/api/forms", { params: { query: { form: form as (typeof FORMS)[number], key: minor(form, key) } } }),
        ).then(({ text }) => text)
      : take(api.GET("/api/solos/{solo_id}/chart.txt", { params: { path: { solo_id: form } }, parseAs: "text" }));
    asked.then(setGiven).catch((fault: unknown) => setTrouble(sentence(fault)));
  }, [form, key]);

  const body: Form = {
    items: items.map(({ which, bar }) => ({ which, bar: bar === "" ? null : Number(bar) })),
    chart,
    tempo: Number(tempo),
    feel,
    title,
  };
  const said = JSON.stringify(body);
  useEffect(() => {
    if (chart === "" || items.length === 0) return undefined;
    const soon = setTimeout(() => {
      take(api.POST("/api/licks/quote", { params: {}, body: JSON.parse(said) as Form }))
        .then((made) => {
          setView(made as unknown as Schemas["QuoteView"]);
          setTrouble(null);
        })
        .catch((fault: unknown) => {
          setView(null);
          setTrouble(sentence(fault));
        });
    }, PATIENCE_MS);
    return () => clearTimeout(soon);
  }, [said, chart, items.length]);

  const put = (next: readonly QuoteItem[]) => setBook({ quote: next });
  const move = (at: number, by: number) => {
    const next = [...items];
    const [one] = next.splice(at, 1);
    if (one !== undefined) next.splice(at + by, 0, one);
    put(next);
  };
  const saving = useSend(
    async () => {
      try {
        await take(api.POST("/api/licks/quote/solo", { body: { ...body, id } }));
        return null;
      } catch (fault) {
        return sentence(fault);
      }
    },
    () => {
      draft.set({ title: "" });
      put([]);
      onSaved(id);
    },
  );

  return (
    <Dialog open wide onOpenChange={(open) => !open && onClose()} title="Quote licks over a form">
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-4">
        <Chosen label="Form">
          <Select
            label="Form"
            options={[...FORMS, ...charts, { value: "own", words: "a chart that you write" }]}
            value={form}
            onChoose={(value) => draft.set({ form: value, ...(value === "own" && own === "" ? { own: given } : {}) })}
          />
        </Chosen>
        {FORMS.includes(form as never) && (
          <Chosen label="Key">
            <Select
              label="Key"
              options={KEYS.map((one) => ({ value: one, words: drawn(one) }))}
              value={key}
              onChoose={(value) => draft.set({ key: value })}
            />
          </Chosen>
        )}
        <Field
          label="Tempo"
          type="number"
          min={20}
          max={400}
          value={tempo}
          onChange={(event) => draft.set({ tempo: event.target.value })}
        />
        <Chosen label="Feel">
          <Select label="Feel" options={FEELS} value={feel} onChoose={(value) => draft.set({ feel: value })} />
        </Chosen>
      </div>
      {form === "own" && (
        <Area label="Chart" rows={3} value={own} onChange={(event) => draft.set({ own: event.target.value })} />
      )}
      <ol aria-label="Licks of the quote" className="mt-4">
        {items.map((item, i) => (
          <li key={item.key} className="border-b border-rule py-1.5">
            <div className="flex flex-wrap items-center gap-3">
              <span className="w-6 text-right font-bold">{i + 1}</span>
              <span className="min-w-[10rem] flex-1 truncate font-bold">{item.name}</span>
              <span className="text-[14px] text-ink-2">
                {view?.sets[i] !== undefined &&
                  `bar ${view.sets[i].bar}${view.sets[i].outside > 0 ? `, ${view.sets[i].outside} notes outside the chords` : ""}`}
              </span>
              <Field
                inline
                label="at bar"
                type="number"
                min={1}
                placeholder="any"
                value={item.bar}
                onChange={(event) =>
                  put(items.map((one) => (one.key === item.key ? { ...one, bar: event.target.value } : one)))
                }
              />
              <Button size="small" aria-label={`${item.name} earlier`} disabled={i === 0} onClick={() => move(i, -1)}>
                ↑
              </Button>
              <Button
                size="small"
                aria-label={`${item.name} later`}
                disabled={i === items.length - 1}
                onClick={() => move(i, 1)}
              >
                ↓
              </Button>
              <Button
                size="small"
                quiet
                aria-label={`Take out ${item.name}`}
                onClick={() => put(items.filter((one) => one.key !== item.key))}
              >
                Take out
              </Button>
            </div>
            {i < items.length - 1 && view !== null && view.joins[i] !== undefined && (
              <p className="pl-9 text-[14px]" aria-label={`Join ${i + 1}`}>
                {view.joins[i] === null ? (
                  <span className="text-ink-2">more than a bar between: not judged</span>
                ) : (
                  <>
                    <b className={view.joins[i].cost > 40 ? "text-doubt" : ""}>{grade(view.joins[i].cost)}</b>{" "}
                    <span className="text-ink-2">{drawn(view.joins[i].says)}</span>
                  </>
                )}
              </p>
            )}
          </li>
        ))}
      </ol>
      {items.length === 0 && <p className="py-3 text-ink-2">Add licks with Q, or with “Quote it”.</p>}
      {(saving.failed ?? trouble) !== null && (
        <p role="alert" className="mt-3 border-l-4 border-doubt pl-3 font-bold">
          {drawn(saving.failed ?? trouble ?? "")}
        </p>
      )}
      {view !== null && view.orders.length > 0 && (
        <div className="mt-3 flex flex-wrap items-baseline gap-2">
          <span className="text-ink-2">These orders join better:</span>
          {view.orders.map((order) => (
            <Button
              key={order.places.join(" ")}
              size="small"
              onClick={() =>
                put(
                  order.places.flatMap((from, i) =>
                    items[from] ? [{ ...items[from], bar: items[i]?.bar ?? "" }] : [],
                  ),
                )
              }
            >
              {order.places.map((one) => one + 1).join(" ")}
            </Button>
          ))}
        </div>
      )}
      <span ref={box} role="group" aria-label="The chorus" tabIndex={0} className="mt-3 block overflow-x-auto">
        {view !== null && <LickFigure drawing={view.drawing} width={width} scrolls />}
      </span>
      {view !== null && view.says.length > 0 && (
        <details className="mt-1 text-[14px] text-ink-2">
          <summary>What was changed to fit</summary>
          {view.says.map((one) => (
            <p key={one}>{drawn(one)}</p>
          ))}
        </details>
      )}
      <div className="mt-4 flex flex-wrap items-end gap-3">
        <PlayButton
          sound="quote"
          label="Hear the chorus"
          onPlay={() => hearQuote("quote", { ...body, speed: 1_000, clicks: !vamp, chords: false, vamp, over: "" })}
        />
        <label className="flex items-center gap-2 self-center font-bold">
          <input
            type="checkbox"
            className="size-4"
            checked={vamp}
            onChange={(event) => draft.set({ vamp: event.target.checked ? "yes" : "" })}
          />
          with a vamp
        </label>
        <span className="flex-1" />
        <Field label="Title" value={title} onChange={(event) => draft.set({ title: event.target.value })} />
        <Button quiet onClick={onClose}>
          Close
        </Button>
        <Button strong disabled={view === null || saving.busy} onClick={saving.send}>
          Save as a solo
        </Button>
      </div>
    </Dialog>
  );
}

const minor = (form: string, key: string): string => (form === "minor 12-bar" ? `${key} minor` : key);

const grade = (cost: number): string => (cost <= 15 ? "joins well" : cost <= 40 ? "joins" : "joins badly");

const Chosen = ({ label, children }: { label: string; children: React.ReactNode }) => (
  <div className="flex flex-col gap-1">
    <span className="font-bold text-ink-2">{label}</span>
    {children}
  </div>
);
