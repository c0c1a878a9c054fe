import type { Kind } from "./entries";

/** How a member of an entry is written: on a line, as lines, as a number, as chosen ones. */
export interface Field {
  name: string;
  label: string;
  as: "line" | "lines" | "number" | "yes" | "measure" | "measures" | "strikes" | "drill" | "said";
  fixed?: boolean; //: once it is there it stays: what was said with it is kept under it
}

export const FIELDS: { [K in Kind]: Field[] } = {
  strike: [
    { name: "name", label: "Strike", as: "line" },
    { name: "parts", label: "Counted parts, one on a line", as: "lines" },
    { name: "weight", label: "The weight", as: "line" },
    { name: "ends", label: "How it ends", as: "line" },
    { name: "mistakes", label: "Mistakes, one on a line", as: "lines" },
    { name: "care", label: "Take care", as: "line" },
    { name: "measures", label: "Measures that see it", as: "measures" },
    { name: "lead_turn_deg", label: "Lead foot turns by, degrees", as: "number" },
    { name: "rear_turn_deg", label: "Rear foot turns by, degrees", as: "number" },
    { name: "lead_weight_pct", label: "Weight over the lead foot at contact, %", as: "number" },
  ],
  factor: [
    { name: "name", label: "What is changed", as: "line", fixed: true },
    { name: "levels", label: "Its levels, one on a line", as: "lines" },
  ],
  drill: [
    { name: "name", label: "Drill", as: "line" },
    { name: "steps", label: "Steps from the easiest, one on a line", as: "lines" },
    { name: "dose", label: "How much of it", as: "line" },
    { name: "go_on", label: "Go on when", as: "line" },
    { name: "kit", label: "It takes", as: "line" },
    { name: "care", label: "Take care", as: "line" },
    { name: "children", label: "Fit for children", as: "yes" },
  ],
  sign: [
    { name: "name", label: "What is seen, and what it likely comes from", as: "line" },
    { name: "drill", label: "Asks for", as: "drill" },
    { name: "measure", label: "Seen by the measure", as: "measure" },
    { name: "low", label: "It shows under the edge, not over it", as: "yes" },
    { name: "edge", label: "Edge where no school has one", as: "number" },
    { name: "step", label: "How far beyond is much", as: "number" },
    { name: "remarks", label: "Or by the remarks", as: "said" },
    { name: "strikes", label: "In the strikes", as: "strikes" },
  ],
  remarks: [
    { name: "name", label: "Of", as: "line" },
    { name: "words", label: "Words, one on a line; the first nine have keys 1 to 9", as: "lines" },
  ],
  point: [
    { name: "name", label: "Point", as: "line" },
    { name: "look_for", label: "Look for", as: "line" },
    { name: "mistake", label: "Usual mistake", as: "line" },
    { name: "measures", label: "Measures that see it; none: your eye alone", as: "measures" },
  ],
};
