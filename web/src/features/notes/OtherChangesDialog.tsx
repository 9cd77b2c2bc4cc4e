import { api, take } from "@/api/client";
import { type Selection, select } from "@/score/cursor";
import { otherChangesIn, showChanges, takeAway } from "@/score/choices";
import { openDocument, useDocument } from "@/score/document";
import { act, tryRequest } from "@/score/sending";
import type { OtherChanges } from "@/score/types";
import { useDraft } from "@/ui/drafts";
import { InputDialog } from "@/ui/InputDialog";
import { Button, Field } from "@/ui/parts";
import { drawn } from "@/ui/signs";

/** Changes of the teacher's own over a span: those that lie there, and new ones, typed as in the chart. */
export function OtherChangesDialog({ span, onClose }: { span: Selection; onClose: () => void }) {
  const choices = useDocument((state) => state.elements.choices);
  const soloId = openDocument().bench?.solo_id ?? "";
  const draft = useDraft(`changes ${soloId} ${span.from}-${span.to}`, { text: "", name: "other changes" });
  const { text, name } = draft.value;
  const there = otherChangesIn(choices, span);
  const lay = async () => {
    const body = { start: span.from, end: span.to, text, name };
    const why = await tryRequest((solo_id) =>
      take(api.POST("/api/solos/{solo_id}/other-changes", { params: { path: { solo_id } }, body })),
    );
    if (why === null) select(null);
    return why;
  };
  return (
    <InputDialog
      title="Other changes over what is marked"
      submit="Lay them"
      draft={draft}
      onSubmit={lay}
      onClose={onClose}
    >
      <p className="text-ink-2">
        The notes there get their degrees against these chords first; the chart stays, and its degrees stay in sight.
      </p>
      {there.length > 0 && (
        <ul aria-label="Other changes here" className="flex flex-col gap-2 border-y border-rule py-2">
          {there.map((one) => (
            <Laid key={one.id} changes={one} />
          ))}
        </ul>
      )}
      <Field
        label="Chords"
        required
        autoFocus
        placeholder="D7 | G7 . Db7 ."
        hint="A bar line between bars; the last chord goes on."
        value={text}
        onChange={(event) => draft.set({ text: event.target.value })}
      />
      <Field
        label="Name"
        required
        maxLength={60}
        value={name}
        onChange={(event) => draft.set({ name: event.target.value })}
      />
    </InputDialog>
  );
}

function Laid({ changes }: { changes: OtherChanges }) {
  const bars = openDocument().bench?.strip.bars ?? [];
  const bar = (tick: number) => bars.find((one) => tick < one.end)?.label ?? "";
  const [first, last] = [bar(changes.start), bar(changes.end - 1)];
  return (
    <li className="flex items-center gap-2">
      <span className="min-w-0 flex-1">
        <b>{drawn(changes.chords.map(({ symbol }) => symbol).join(", "))}</b> {changes.name}, bar {first}
        {last === first ? "" : ` to ${last}`}
      </span>
      <Button size="small" onClick={() => act(showChanges(changes, !changes.shown))}>
        {changes.shown ? "The chart first" : "These first"}
      </Button>
      <Button size="small" onClick={() => act(takeAway(changes))}>
        Delete
      </Button>
    </li>
  );
}
