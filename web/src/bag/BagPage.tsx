import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useBags, useRegistry, useStudent } from "../api/queries";
import { Empty, Failed, Loading, Problem } from "../ui/state";
import { Bagside } from "./Bagside";
import { keepClock } from "./heard/clock";
import { useSimulated, useStations, useTake } from "./heard/take";
import { useStepUp } from "./taps/stepUp";
import { Radios } from "../ui/Radios";

const STATION = "station"; // which bag this tablet stands by

/** The evening at the bag: which bag this tablet stands by, and who steps up. */
export function BagPage() {
  const studentId = Number(useParams().studentId);
  const stations = useStations();
  const student = useStudent(studentId);
  const registry = useRegistry();
  const [chosen, setChosen] = useState<number | null>(Number(localStorage.getItem(STATION)) || null);
  const station = stations.data?.find((s) => s.id === chosen) ?? (stations.data?.length === 1 ? stations.data[0] : undefined);
  const take = useTake(station?.id ?? null);
  const { stepUp, waits, error: notUp } = useStepUp(station?.id ?? null);
  const navigate = useNavigate();
  useEffect(() => {
    void keepClock().catch(() => {});
  }, []);
  const failed = stations.error ?? student.error ?? registry.error;
  if (failed) return <Failed error={failed} retry={() => void stations.refetch()} />;
  if (!stations.data || !student.data || !registry.data) return <Loading what="the bag" />;
  const choose = (id: number) => {
    localStorage.setItem(STATION, String(id));
    setChosen(id);
  };
  if (take.data && station)
    return (
      <Bagside
        take={take.data}
        registry={registry.data}
        turnTo={(id) => stepUp(id, () => void navigate(`/students/${id}/measure`, { replace: true }))}
        turnWaits={waits}
        stepUpError={notUp}
      />
    );
  return (
    <div className="mx-auto max-w-4xl p-6">
      <h1 className="wide-title text-2xl">Measure {student.data.name}</h1>
      {stations.data.length > 0 && (
        <section aria-label="Which bag" className="mt-5">
          <h2 className="wide-title text-lg">This tablet stands by</h2>
          <Radios
            name="Bag"
            values={stations.data}
            chosen={station ?? null}
            choose={(s) => choose(s.id)}
            tell={(s) => (
              <>
                {s.name}
                {s.name !== s.bag && <span className="block text-2xs font-normal">{s.bag}</span>}
              </>
            )}
            keyOf={(s) => s.id}
            className="mt-2 flex flex-wrap gap-3"
            each="min-h-16 px-6 text-base"
          />
        </section>
      )}
      {student.data.stopped ? (
        <p role="alert" className="mt-5 border-l-4 border-buoy pl-3">
          {student.data.stopped}
        </p>
      ) : (
        station && (
          <button className="action-main mt-5 min-h-20 w-full text-2xl" disabled={waits !== null} onClick={() => stepUp(studentId)}>
            {student.data.name} steps up{waits === studentId && " …"}
          </button>
        )
      )}
      {waits !== null && <p role="status" className="mt-2 text-soft">The tap counts from when it was made, as soon as the server has it.</p>}
      <Problem error={notUp} />
      {stations.data.length === 0 && (
        <Empty title="No hub stands by a bag yet">
          A hub gathers the units by a bag and sends what they measure.{" "}
          <Link className="plain" to="/kit#stations">
            Make a station for it under Kit
          </Link>
          , or see how it goes with a simulated student.
        </Empty>
      )}
      {/* above what comes only when bags are known: a link that moves under the hand is missed */}
      <p className="mt-8">
        <Link className="plain py-3" to={`/students/${studentId}/bring`}>
          Bring in a recording
        </Link>{" "}
        <span className="text-soft">that a logger made</span>
      </p>
      <Simulated
        begun={(id) => {
          choose(id);
        }}
      />
    </div>
  );
}

/** A made-up student, so that all of it can be tried without a unit. */
function Simulated({ begun }: { begun: (station: number) => void }) {
  const bags = useBags();
  const simulated = useSimulated();
  const bag = bags.data?.[0];
  if (!bag) return null;
  const start = (speed: number) => simulated.mutate({ bagId: bag.id, speed }, { onSuccess: begun });
  return (
    <section aria-label="A simulated evening" className="mt-8 border-t border-line pt-4">
      <h2 className="wide-title text-lg">A simulated evening</h2>
      <p className="mt-1 text-soft">A made-up student with a unit on the bag and on both wrists stands at {bag.name} and does what is called, for an hour.</p>
      <div className="mt-3 flex gap-3">
        <button className="action min-h-16 px-6" disabled={simulated.isPending} onClick={() => start(1)}>
          At real speed
        </button>
        <button className="action min-h-16 px-6" disabled={simulated.isPending} onClick={() => start(10)}>
          Ten times as fast
        </button>
      </div>
      <Problem error={simulated.error} />
    </section>
  );
}
