/** What shapes, lines and colours on the strip mean: every sign drawn as the strip draws it. */
import type { ReactNode } from "react";
import { plainNote } from "@/score/elements";
import { openLegend, useShown } from "@/score/shown";
import type { Note, NoteView } from "@/score/types";
import type { Placed } from "@/score/view";
import { Dialog } from "@/ui/parts";
import { DegreeTablet } from "./DegreeTablet";
import { NeckNote } from "./NeckNote";

const WIDTH = 128;
const DEGREE_WIDTH = 76;
const AXIS = { startS: 0, pxPerS: 127 };
const NECK = { top: 40, spacing: 20, strings: 1, flip: false };
const NUMBER_X = 30;
const END_X = 104;
const TICKS = 5_040;

const VIEW: NoteView = {
  id: "sample",
  where: "",
  name: "",
  degrees: ["5"],
  degree: "5",
  other: "",
  shape: "plain",
  blue: false,
  held: [],
  says: "",
  more: "",
  expected_s: 0,
  end_s: 0,
  bends: [],
  elsewhere: [],
  played: [],
};
const NOTE = plainNote("sample", 0, TICKS, 1, 7);

const placed = (note: Partial<Note>, view: Partial<NoteView>, before: Placed["before"] = null): Placed => ({
  id: NOTE.id,
  note: { ...NOTE, ...note },
  view: { ...VIEW, ...view },
  axis: AXIS,
  x: NUMBER_X,
  endX: END_X,
  startS: 0,
  endS: 1,
  lead: 60,
  room: 90,
  gap: 60,
  before,
});

function Degree({ view, says }: { view: Partial<NoteView>; says: string }) {
  return (
    <Row says={says}>
      <svg width={DEGREE_WIDTH} height={view.other === undefined ? 48 : 68} aria-hidden>
        <DegreeTablet placed={placed({}, view)} y={4} stackIndex={0} stackSize={1} rows={1} heldX={(tick) => tick} />
      </svg>
    </Row>
  );
}

function Sign({
  note,
  view = {},
  from,
  says,
}: {
  note: Partial<Note>;
  view?: Partial<NoteView>;
  from?: number;
  says: string;
}) {
  const before = from === undefined ? null : { x: -20, fret: from };
  return (
    <Row says={says}>
      <svg width={WIDTH} height={66} aria-hidden>
        <line x1={0} x2={WIDTH} y1={NECK.top} y2={NECK.top} className="stroke-rule-2" />
        <NeckNote placed={placed(note, view, before)} neck={NECK} pxPerS={AXIS.pxPerS} density="all" />
      </svg>
    </Row>
  );
}

function Row({ says, children }: { says: string; children: ReactNode }) {
  return (
    <li className="flex items-center gap-3">
      <span className="shrink-0">{children}</span>
      <span>{says}</span>
    </li>
  );
}

function Colour({ name, says }: { name: string; says: string }) {
  return (
    <Row says={says}>
      <span aria-hidden className={`block h-5 w-12 rounded-[3px] ${name}`} />
    </Row>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h2 className="mb-1 font-bold text-ink-2">{title}</h2>
      <ul>{children}</ul>
    </section>
  );
}

export function LegendDialog() {
  const open = useShown((state) => state.legend);
  return (
    <Dialog wide open={open} onOpenChange={openLegend} title="Legend">
      <div className="grid gap-x-8 gap-y-4 sm:grid-cols-3">
        <Part title="Degrees">
          <Degree view={{ shape: "chord tone" }} says="filled: a tone of the chord" />
          <Degree
            view={{ shape: "tension", degree: "9", degrees: ["9"] }}
            says="framed: a tension, named or available"
          />
          <Degree view={{ shape: "scale", degree: "11", degrees: ["11"] }} says="plain: a note of the scale" />
          <Degree
            view={{ shape: "approach", degree: "11", degrees: ["11"] }}
            says="a tick: it leads to the chord tone that follows"
          />
          <Degree
            view={{ shape: "outside", degree: "b9", degrees: ["b9"] }}
            says="dashed frame: outside the chord and the scale"
          />
          <Degree view={{ shape: "pedal", degree: "9", degrees: ["9"] }} says="a line under it: a pedal" />
          <Degree
            view={{ shape: "anticipation", other: "4 here" }}
            says="pointed: heard against the next chord; under it the degree against the one that sounds"
          />
          <Degree view={{ degree: "b3", degrees: ["b3"], blue: true }} says="waved underline: blue" />
          <Degree view={{ shape: "chord tone", degrees: ["4", "5"] }} says="a bend: from where, to where" />
          <Degree view={{ shape: "key", degree: "b7", degrees: ["b7"] }} says="grey: no chord, the degree of the key" />
        </Part>
        <Part title="On the string">
          <Sign note={{}} says="a number and how long it sounds" />
          <Sign
            note={{
              course: [
                [0, 0],
                [1_700, 4],
                [TICKS, 4],
              ],
            }}
            view={{ bends: [{ at: 1_700, quarters: 4, size: "1" }] }}
            says="bent: the line lifts, with its size in steps"
          />
          <Sign
            note={{ vibrato: { start: 900, width_cents: 40, rate_hz: 5.5, by: "finger" } }}
            says="vibrato, as wide as it is written"
          />
          <Sign note={{ attack: { kind: "slide" } }} from={500} says="slid into" />
          <Sign note={{ attack: { kind: "hammer-on" } }} from={500} says="hammer-on or pull-off" />
          <Sign note={{ dead: true }} says="dead" />
          <Sign note={{ ghost: true }} says="ghost" />
        </Part>
        <Part title="Underlines and colours">
          <Sign note={{ sure: "unsure" }} says="dashed and a question mark: unsure" />
          <Sign note={{ ending: { kind: "choked" } }} says="a bar at the end: cut" />
          <Sign note={{ palm_mute: true }} says="dots under it: palm mute" />
          <Sign note={{ ending: { kind: "let ring" } }} says="dashes: it rings on" />
          <Colour name="bg-sound" says="red sounds now" />
          <Colour name="bg-sound-tint" says="what loops" />
          <Colour name="bg-pick" says="blue is selected" />
          <Colour name="bg-doubt" says="ochre is doubtful" />
          <Colour name="bg-tint" says="the sound, and what is not written" />
        </Part>
      </div>
    </Dialog>
  );
}
