import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useStudent } from "../api/queries";
import { useRemoval } from "../api/removal";
import { clock, day } from "../format";
import { useReading } from "./reading";

interface Props {
  recordings: Schemas["RecordingRow"][];
  floorUp: boolean;
  label: () => void;
  help: () => void;
}

/** Above the strip: which recording, which view, what the marks show, and what to do with all of it. */
export function Toolbar({ recordings, floorUp, label, help }: Props) {
  const { recording, registry, view, change, span, zone } = useReading();
  const whose = useStudent(recording.student_id).data;
  return (
    <div className="flex flex-wrap items-center gap-3">
      <p className="only-print wide-title text-lg">
        {whose?.name}: {recording.task}, {day(recording.acquired_at, zone)}, {clock(recording.acquired_at, 0, zone).slice(0, 5)}
      </p>
      <label className="flex items-center gap-2">
        <span className="sr-only">Recording</span>
        <select className="field w-64 font-semibold" value={recording.id} onChange={(e) => change({ recording: Number(e.target.value), strike: undefined, under: "" })}>
          {recordings.map((r) => (
            <option key={r.id} value={r.id}>
              {day(r.acquired_at, zone)}, {clock(r.acquired_at, 0, zone).slice(0, 5)}, {r.task}: {r.strikes} strikes
            </option>
          ))}
        </select>
      </label>
      <ViewChoice floorUp={floorUp} />
      <label className="flex items-center gap-2">
        <span className="whitespace-nowrap text-soft">Marks show</span>
        <select className="field w-44" aria-label="Height of the marks" value={view.measure} onChange={(e) => change({ measure: e.target.value })}>
          {registry.measures
            .filter((m) => m.numeric)
            .map((m) => (
              <option key={m.name} value={m.name}>
                {m.label}
              </option>
            ))}
        </select>
      </label>
      <Notices />
      {span[1] > span[0] ? (
        <button className="action no-print ml-auto whitespace-nowrap" onClick={label}>
          Label {span[1] - span[0] + 1} strikes ( l )
        </button>
      ) : (
        <span className="ml-auto hidden text-2xs whitespace-nowrap text-soft xl:inline">● left, ◆ right, hollow: out</span>
      )}
      <span className="no-print ml-auto flex gap-3 xl:ml-0">
        <Link className="plain py-1 whitespace-nowrap" to={`/evenings/${recording.session_id}`}>
          Evening
        </Link>
        <Exports />
        <Remove />
        <button className="plain py-1 whitespace-nowrap" onClick={help}>
          Keys ( ? )
        </button>
      </span>
    </div>
  );
}

function ViewChoice({ floorUp }: { floorUp: boolean }) {
  const { change } = useReading();
  const one = (name: string, show: string, on: boolean) => (
    <button className={`min-h-9 px-3 font-semibold whitespace-nowrap ${on ? "bg-ink text-ground" : "hover:bg-shade"}`} aria-pressed={on} onClick={() => change({ show })}>
      {name}
    </button>
  );
  return (
    <div className="no-print flex shrink-0 overflow-hidden rounded-sm border border-ink" role="group" aria-label="View">
      {one("From the floor up", "floor", floorUp)}
      {one("Force and table", "force", !floorUp)}
    </div>
  );
}

/** Takes the recording away, with the way back; the page goes on to the next one. */
function Remove() {
  const { recording, change } = useReading();
  const { remove, busy } = useRemoval(() => change({ recording: undefined, strike: undefined, id: undefined, under: "" }));
  return (
    <button className="plain py-1" disabled={busy} onClick={() => remove("recording", recording.id)}>
      Remove
    </button>
  );
}

function Exports() {
  const { recording } = useReading();
  const files = [
    ["strikes.csv", "Strikes as CSV"],
    ["strikes.parquet", "Strikes as Parquet"],
    ["motion-bids.zip", "The recording as Motion-BIDS"],
  ] as const;
  return (
    <Popover className="relative">
      <PopoverButton className="plain py-1">Export</PopoverButton>
      <PopoverPanel className="absolute right-0 z-20 mt-1 w-60 rounded border border-line bg-raised p-2 shadow-lg">
        {files.map(([file, name]) => (
          <a key={file} className="block px-2 py-2 hover:bg-shade" href={`/api/recordings/${recording.id}/${file}`} download>
            {name}
          </a>
        ))}
      </PopoverPanel>
    </Popover>
  );
}

function Notices() {
  const { recording, registry } = useReading();
  return recording.flags.map((flag) => (
    <p key={flag} role="alert" className="max-w-xl border-l-4 border-buoy pl-3 text-2xs">
      {registry.flags[flag.split(":")[0]!] ?? flag}
    </p>
  ));
}
