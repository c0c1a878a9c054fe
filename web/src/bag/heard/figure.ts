import { useState } from "react";
import { findMeasure, type Measure } from "../../format";
import type { Schemas } from "../../api/client";

/** What fills the screen: a measure, a word, or nothing, since some drill is better unseen. */
export interface Figure {
  choice: string; //: a measure's name, `word` or `none`
  measure: Measure; //: that the strip is drawn in
  choices: { name: string; label: string }[];
  choose: (choice: string) => void;
  next: () => void;
}

const KEPT = { adult: "figure", child: "figure-child" };
const OF_A_CHILD = ["turn_done_pct", "return_ms", "path_ratio", "drop_mm", "settle_ms", "lead_load_contact_pct"]; // nothing that only full effort shows
const OF_ALL = ["impulse_n_s", "peak_force_n", "peak_speed_m_s", "effective_mass_kg", "load_shift_pct", "bag_energy_j", "settle_ms"];

export function useFigure(registry: Schemas["Registry"], child: boolean): Figure {
  const offered = child ? OF_A_CHILD : OF_ALL;
  const kept = child ? KEPT.child : KEPT.adult;
  const measures = offered.flatMap((name) => findMeasure(registry, name) ?? []);
  const [choice, setChoice] = useState(localStorage.getItem(kept) ?? offered[0]!);
  const [drawn, setDrawn] = useState(offered.includes(choice) ? choice : offered[0]!);
  const choices = [...measures.map((m) => ({ name: m.name, label: m.label })), { name: "word", label: "A word only" }, { name: "none", label: "No figure" }];
  const choose = (name: string) => {
    localStorage.setItem(kept, name);
    setChoice(name);
    if (offered.includes(name)) setDrawn(name);
  };
  const at = choices.findIndex((c) => c.name === choice);
  return { choice: at < 0 ? offered[0]! : choice, measure: findMeasure(registry, drawn) ?? measures[0]!, choices, choose, next: () => choose(choices[(at + 1) % choices.length]!.name) };
}
