/** Staff notation drawn over a page, where the server says what stands where. Loaded with its font when it is asked for. */
import {
  Accidental,
  Beam,
  Dot,
  Formatter,
  Fraction,
  Renderer,
  Stave,
  StaveNote,
  StaveTie,
  Tuplet,
  VexFlow,
  Voice,
} from "vexflow/core";
import bravura from "@vexflow-fonts/bravura/bravura.woff2";
import type { Schemas } from "@/api/client";

type Place = Schemas["StaffPlace"];
type Written = Place["line"]["notes"][number];

const SMALLER = 0.56; // of the library's own size, so that five lines stand beside the tablature's six
const TOP = 34; // points from the place's upper edge to the first of the five lines
const ABOVE = 40; // what the library leaves over it, in its own units

let loaded: Promise<void> | null = null;
const loadFont = (): Promise<void> =>
  (loaded ??= new FontFace("Bravura", `url(${bravura})`).load().then((font) => {
    document.fonts.add(font);
    VexFlow.setFonts("Bravura");
  }));

const keyOf = ({ letter, octave }: Written["heads"][number]): string => `${letter}/${octave}`;

const noteOf = (written: Written): StaveNote => {
  const rest = written.heads.length === 0;
  const note = new StaveNote({
    keys: rest ? ["b/4"] : written.heads.map(keyOf),
    duration: `${written.value}${rest ? "r" : ""}`,
    dots: written.dots,
    autoStem: !rest,
  });
  written.heads.forEach((head, i) => {
    if (head.sign !== "") note.addModifier(new Accidental(head.sign), i);
  });
  for (let i = 0; i < written.dots; i += 1) Dot.buildAndAttach([note], { all: true });
  return note;
};

/** Notes that belong together, in their order. */
const grouped = (written: readonly Written[], notes: readonly StaveNote[]): Map<number, StaveNote[]> => {
  const groups = new Map<number, StaveNote[]>();
  written.forEach(({ tuplet }, i) => {
    const note = notes[i];
    if (tuplet == null || note === undefined) return;
    groups.set(tuplet, [...(groups.get(tuplet) ?? []), note]);
  });
  return groups;
};

/** Draw one line of staff notation into a box whose unit is a point. */
export const drawStaff = async (box: HTMLDivElement, place: Place): Promise<void> => {
  await loadFont();
  box.replaceChildren();
  const scale = place.scale * SMALLER;
  const renderer = new Renderer(box, Renderer.Backends.SVG);
  renderer.resize(place.width * place.scale, place.height * place.scale);
  const context = renderer.getContext();
  context.scale(scale, scale);
  const stave = new Stave(0, TOP / SMALLER - ABOVE, place.width / SMALLER);
  stave.addClef("treble", undefined, "8vb").addKeySignature(place.line.signature);
  if (place.line.meter !== "") stave.addTimeSignature(place.line.meter.split(" ")[0] ?? place.line.meter);
  stave.setContext(context).draw();
  for (const x of place.bars) {
    context.beginPath();
    context.moveTo(x / SMALLER, stave.getYForLine(0));
    context.lineTo(x / SMALLER, stave.getYForLine(4));
    context.stroke();
  }
  const { notes: written } = place.line;
  if (written.length === 0) return;
  const notes = written.map(noteOf);
  const tuplets = [...grouped(written, notes).entries()].map(([number, members]) => {
    const first = written.find(({ tuplet }) => tuplet === number);
    return new Tuplet(members, { numNotes: first?.count ?? 3, notesOccupied: first?.space ?? 2 });
  });
  const beams = beamed(written, notes);
  const voice = new Voice().setMode(Voice.Mode.SOFT).addTickables(notes);
  new Formatter().joinVoices([voice]).format([voice], place.width / SMALLER - 80);
  // Every note stands over its number on the strings.
  notes.forEach((note, i) => {
    note.setStave(stave);
    const wanted = (place.places[i] ?? 0) / SMALLER;
    note.getTickContext().setX(note.getTickContext().getX() + wanted - note.getAbsoluteX() - note.getGlyphWidth() / 2);
  });
  voice.draw(context, stave);
  for (const beam of beams) beam.setContext(context).draw();
  for (const tuplet of tuplets) tuplet.setContext(context).draw();
  written.forEach(({ tied }, i) => {
    const [from, to] = [notes[i], notes[i + 1]];
    if (!tied || from === undefined || to === undefined || (written[i + 1]?.heads.length ?? 0) === 0) return;
    const indexes = from.getKeys().map((_, head) => head);
    new StaveTie({ firstNote: from, lastNote: to, firstIndexes: indexes, lastIndexes: indexes })
      .setContext(context)
      .draw();
  });
};

/** Beams within each bar; rests end them. */
const beamed = (written: readonly Written[], notes: readonly StaveNote[]): Beam[] => {
  const bars = new Map<number, StaveNote[]>();
  written.forEach(({ bar }, i) => {
    const note = notes[i];
    if (note !== undefined) bars.set(bar, [...(bars.get(bar) ?? []), note]);
  });
  return [...bars.values()].flatMap((own) => Beam.generateBeams(own, { groups: [new Fraction(1, 4)] }));
};
