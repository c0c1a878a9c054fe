import type { Schemas } from "../../api/client";
import { useFamilyName } from "../../ui/StrikePicker";

type Volume = Schemas["VolumeCount"];

/** The count that a set of this code chips at. */
export function volumeOf(volumes: Volume[], code: string): Volume | undefined {
  return volumes.find((v) => code === `lead-${v.family}` || code === `rear-${v.family}`);
}

/** How a count stands, side by side; `more` has come since the page was made. */
export function VolumeLeft({ volume, more }: { volume: Volume; more?: { left: number; right: number } }) {
  const familyName = useFamilyName();
  const left = volume.left + (more?.left ?? 0);
  const right = volume.right + (more?.right ?? 0);
  const togo = Math.max(0, volume.wanted_left - left) + Math.max(0, volume.wanted_right - right);
  return (
    <div data-volume={togo}>
      <p className="text-lg">
        {familyName(volume.family)}:{" "}
        {togo > 0 ? (
          <>
            <b className="figure text-3xl">{togo}</b> <span className="text-soft">of {volume.total} to go</span>
          </>
        ) : (
          <b>all {volume.total} done</b>
        )}
      </p>
      <Side name="left" thrown={left} wanted={volume.wanted_left} />
      <Side name="right" thrown={right} wanted={volume.wanted_right} />
      {volume.owed > 0 && <p className="text-base text-soft">The {volume.owed_side} owed {volume.owed} from before.</p>}
    </div>
  );
}

function Side({ name, thrown, wanted }: { name: string; thrown: number; wanted: number }) {
  const share = wanted ? Math.min(1, thrown / wanted) : 1;
  return (
    <p className="flex items-center gap-3 text-lg">
      <span className="w-12">{name}</span>
      <span aria-hidden="true" className="h-3 flex-1 border border-ink">
        <span className="block h-full bg-ink" style={{ width: `${100 * share}%` }} />
      </span>
      <span className="numeric w-20 text-right">
        {thrown} <span className="text-soft">of {wanted}</span>
      </span>
    </p>
  );
}
