import { createContext, useContext, type ReactNode } from "react";
import type { Schemas } from "../api/client";
import type { System } from "../format";
import type { Cursor } from "./cursor";
import type { StrikeEditing } from "./editing";
import type { useView } from "./view";

/** What the page has chosen: every part of it reads the same. */
export interface Reading {
  recording: Schemas["RecordingOut"];
  strikes: Schemas["Strikes"];
  registry: Schemas["Registry"];
  view: ReturnType<typeof useView>[0];
  change: ReturnType<typeof useView>[1];
  chosen: number; //: place of the strike, as the strip and the table show it at once
  shown: number; //: the same, as soon as the panels follow
  span: [number, number]; //: chosen strikes, first and last
  choose: (i: number) => void;
  cursor: Cursor;
  editing: StrikeEditing;
  units: System;
  child: boolean; //: technique first, nothing that only full effort shows
  zone: string;
}

const Context = createContext<Reading | null>(null);

export function ReadingOf({ value, children }: { value: Reading; children: ReactNode }) {
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export function useReading(): Reading {
  const found = useContext(Context);
  if (!found) throw new Error("a part of the reading page stands outside of it");
  return found;
}
