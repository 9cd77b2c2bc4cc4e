/** The server's shapes under the names that the page uses. */
import type { Schemas } from "@/api/client";

export type Note = Schemas["Note"];
export type Rest = Schemas["Rest"];
export type Stack = Schemas["Stack"];
export type Phrase = Schemas["Phrase"];
export type Dynamic = Schemas["Dynamic"];
export type Swell = Schemas["Swell"];
export type Choice = Schemas["Solo"]["choices"][number];
export type OtherChanges = Schemas["ChangesChoice"];
export type Remark = Schemas["Remark"];
export type PlanEntry = Schemas["PlanEntry"];
export type Question = Schemas["Question"];
export type NoteView = Schemas["NoteView"];
export type BarView = Schemas["BarView"];
export type ChordView = Schemas["ChordView"];
export type Strip = Schemas["Strip"];
export type Tables = Schemas["Tables"];
export type Bench = Schemas["Bench"];
export type Answer = Schemas["Answer"];
export type Edit = Schemas["Edit"];
export type Change = Schemas["Change"];
export type Kind = Schemas["Kind"];
export type Violation = Schemas["Violation"];
export type Loop = Schemas["Loop"];
export type Anchor = Schemas["Anchor"];
