import type { Schemas } from "../api/client";

/** The gym's bags, to choose from in a select. */
export function BagOptions({ bags }: { bags: Schemas["BagOut"][] | undefined }) {
  return bags?.map((b) => (
    <option key={b.id} value={b.id}>
      {b.name}
    </option>
  ));
}
