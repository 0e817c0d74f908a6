import type { Schemas } from "../../api/client";

export type StudyKind = Schemas["StudyKind"];

interface KindFacts {
  kind: StudyKind;
  name: string;
  /** What it answers, in a sentence. */
  answers: string;
  /** The measure that it takes where none is named; laps take none. */
  measure: string;
}

/** Every kind of study, in the order of the gallery. */
export const KINDS: readonly KindFacts[] = [
  {
    kind: "charge sweep",
    name: "Charge sweep",
    answers: "How does it hold up from a full battery to an empty one, and where does it step down?",
    measure: "0-60 mph",
  },
  {
    kind: "warm-up",
    name: "Warm-up",
    answers: "What is a warmer battery worth, and how long does heating take?",
    measure: "0-60 mph",
  },
  {
    kind: "repeatability",
    name: "Repeatability",
    answers: "Does it get slower from pass to pass, and is the first really the quickest?",
    measure: "0-60 mph",
  },
  {
    kind: "braking series",
    name: "Braking series",
    answers: "Do stops get longer, one after the other?",
    measure: "60-0 mph",
  },
  {
    kind: "tires",
    name: "Tires",
    answers: "Which tires stop and start best, and by how much?",
    measure: "60-0 mph",
  },
  {
    kind: "roll-ons",
    name: "Roll-ons",
    answers: "Who is ahead when, from a steady speed?",
    measure: "30-70 mph",
  },
  { kind: "modes", name: "Modes", answers: "What does each drive mode do?", measure: "0-60 mph" },
  {
    kind: "energy",
    name: "Energy",
    answers: "What does a pull take out of the battery, and what does a stop put back?",
    measure: "1/4 mile",
  },
  {
    kind: "receivers",
    name: "Receivers",
    answers: "Do two receivers agree on the same passes?",
    measure: "0-60 mph",
  },
  {
    kind: "dashboard speed",
    name: "Dashboard speed",
    answers: "What is an indicated speed truly?",
    measure: "0-60 mph",
  },
  {
    kind: "history",
    name: "History",
    answers: "How did it change over months, and did something change that nobody logged?",
    measure: "0-60 mph",
  },
  { kind: "laps", name: "Laps", answers: "How quick is each lap, and where is time lost?", measure: "" },
];

export function factsOf(kind: string): KindFacts | undefined {
  return KINDS.find((each) => each.kind === kind);
}
