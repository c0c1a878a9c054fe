import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useStudent } from "../api/queries";
import { useStations, useTonight } from "../bag/heard/take";
import { useStepUp } from "../bag/taps/stepUp";
import { Failed, Loading, Problem } from "../ui/state";
import { KitGlance } from "./KitGlance";
import { EyePoints } from "../evening/EyePoints";
import { TonightFor } from "./TonightFor";
import { WhoIsHere } from "./WhoIsHere";

/** Before the first strike: who is here, what tonight holds, the kit in one glance. */
export function PreparePage() {
  const studentId = Number(useParams().studentId);
  const tonight = useTonight();
  const student = useStudent(studentId);
  const stations = useStations();
  const navigate = useNavigate();
  const [chosen, setChosen] = useState<number | null>(Number(localStorage.getItem("station")) || null);
  const station = stations.data?.find((s) => s.id === chosen) ?? stations.data?.[0];
  const { stepUp, waits, error: notUp } = useStepUp(station?.id ?? null);
  const failed = tonight.error ?? student.error ?? stations.error;
  if (failed) return <Failed error={failed} retry={() => void tonight.refetch()} />;
  if (!tonight.data || !student.data || !stations.data) return <Loading what="the class" />;
  const here = tonight.data.filter((t) => t.here);
  const row = tonight.data.find((t) => t.student_id === studentId);
  const choose = (id: number) => {
    localStorage.setItem("station", String(id));
    setChosen(id);
  };
  const begin = () => {
    if (!station) return void navigate(`/students/${studentId}/measure`);
    localStorage.setItem("station", String(station.id));
    stepUp(studentId, () => void navigate(`/students/${studentId}/measure`));
  };
  return (
    <div className="mx-auto max-w-7xl px-6 py-4">
      <h1 className="wide-title text-2xl sm:text-3xl">
        Tonight, {here.length} here{" "}
        <span className="text-base font-normal text-soft">
          {student.data.name} {row?.here ? "is one of them" : "is not marked as here"}
        </span>
      </h1>
      <div className="mt-4 grid gap-8 lg:grid-cols-[minmax(0,20rem)_minmax(0,1fr)_minmax(0,22rem)]">
        <WhoIsHere rows={tonight.data} chosen={studentId} />
        {row && <TonightFor row={row} />}
        <section aria-label="Kit">
          <KitGlance stations={stations.data} station={station} choose={choose} />
          {row && <EyePoints eveningId={row.evening_id} />}
          <button className="action-main mt-4 min-h-20 w-full text-2xl" disabled={!!row?.stopped || waits !== null} onClick={begin}>
            Begin at the bag
          </button>
          <Problem error={notUp} />
          {row?.stopped && <p className="mt-2 text-buoy-ink">{row.stopped}</p>}
          <p className="mt-3">
            <Link className="plain py-3" to={`/students/${studentId}/bring`}>
              Bring in a recording instead
            </Link>
          </p>
        </section>
      </div>
    </div>
  );
}
