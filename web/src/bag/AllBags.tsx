import { Link } from "react-router";
import { useRegistry } from "../api/queries";
import { show } from "../format";
import { Empty, Failed, Loading } from "../ui/state";
import { useUnits } from "../ui/settings";
import { useFigure } from "./heard/figure";
import { kitInWords } from "./heard/kit";
import { useKit, useStations } from "./heard/take";
import type { Schemas } from "../api/client";
import { usePlannedName } from "../ui/StrikePicker";

/** Every bag at once, for the coach who walks round. */
export function AllBags() {
  const stations = useStations();
  const registry = useRegistry();
  if (stations.error) return <Failed error={stations.error} retry={() => void stations.refetch()} />;
  if (!stations.data || !registry.data) return <Loading what="the bags" />;
  return (
    <div className="mx-auto max-w-6xl p-6">
      <h1 className="wide-title text-2xl">All bags</h1>
      {stations.data.length ? (
        <div className="mt-4 grid gap-5 sm:grid-cols-2 xl:grid-cols-3">
          {stations.data.map((s) => (
            <Station key={s.id} station={s} registry={registry.data} />
          ))}
        </div>
      ) : (
        <Empty title="No station yet">
          <Link className="plain" to="/kit#stations">
            Make one for each hub under Kit
          </Link>
          .
        </Empty>
      )}
    </div>
  );
}

function Station({ station, registry }: { station: Schemas["StationRow"]; registry: Schemas["Registry"] }) {
  const plannedName = usePlannedName();
  const [units] = useUnits();
  const figure = useFigure(registry, station.child);
  const kit = useKit(station.id);
  const measured = station.last?.measures[figure.measure.name];
  const shown = measured ? show(figure.measure, measured[0], measured[1], units) : null;
  const words = kitInWords(kit);
  const to = station.student_id ? `/students/${station.student_id}/measure` : "/students";
  return (
    <Link to={to} className="block min-h-16 border-t-2 border-ink pt-2 hover:bg-shade" onClick={() => localStorage.setItem("station", String(station.id))}>
      <h2 className="flex items-baseline justify-between gap-3">
        <span className="wide-title truncate text-lg">{station.student || "nobody"}</span>
        <span className="truncate text-soft">{station.name}</span>
      </h2>
      <p className="figure mt-1 text-6xl leading-none">{figure.choice === "none" || figure.choice === "word" ? station.thrown : (shown?.value ?? "–")}</p>
      <p className="mt-1 text-soft">
        {figure.choice !== "none" && figure.choice !== "word" && `${shown?.unit ?? ""} ${figure.measure.label.toLowerCase()} · `}
        {station.set_code ? `${plannedName(station.set_code).toLowerCase()}, ` : station.student ? "between sets, " : ""}
        {station.student && `${station.thrown}${station.wanted ? ` of ${station.wanted}` : ""} strikes`}
      </p>
      <p className={/silent|low/.test(words) ? "mt-1 font-semibold text-buoy-ink" : "mt-1 text-soft"}>{words || (station.student ? "no hub sends" : "")}</p>
    </Link>
  );
}
