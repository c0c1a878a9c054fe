import type { Schemas } from "../../api/client";

/** What stands at a bag: the take that is open, its strikes and its marks, and what is to be thrown next. */
export type Take = Schemas["TakePage"];
export type Struck = Schemas["LiveStrike"];
export type Mark = Schemas["LiveMark"];
export type Coming = Schemas["NextSet"];
export type Nobodys = Schemas["NobodysBlows"];
export type Station = Schemas["StationRow"];
