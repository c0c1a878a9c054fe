import { useState } from "react";
import { Link } from "react-router";
import { useKit, useTonight, type Take } from "./heard/take";
import { kitInWords } from "./heard/kit";
import { inTurn } from "./taps/turns";
import { Window } from "../ui/Window";

interface Props {
  take: Take;
  turnTo: (studentId: number) => void;
  finish: () => void;
  openSet: boolean;
}

const SHOWN = 2; // others that fit beside the name

/** Whose turn it is, who is next, which bag, and what the kit does. */
export function Head({ take, turnTo, finish, openSet }: Props) {
  const tonight = useTonight();
  const kit = useKit(take.station_id);
  const [asked, setAsked] = useState(false);
  const others = inTurn((tonight.data ?? []).filter((t) => t.here && !t.stopped && t.student_id !== take.student_id), take.station_id);
  const turn = (id: number) => {
    setAsked(false);
    turnTo(id);
  };
  return (
    <header className="flex min-h-17 flex-wrap items-center gap-x-4 gap-y-1 border-b border-line py-1.5">
      <span className="wide-title text-xl sm:text-2xl">{take.student}</span>
      {others.slice(0, SHOWN).map((o) => (
        <button key={o.student_id} className="action min-h-16 px-4 text-base sm:text-lg" disabled={openSet} onClick={() => turn(o.student_id)}>
          {o.name}
        </button>
      ))}
      <button className="action min-h-16 min-w-16 px-4 text-base" aria-haspopup="dialog" onClick={() => setAsked(true)}>
        …<span className="sr-only">Others, and the end</span>
      </button>
      <span className="ml-auto hidden text-right text-base text-soft md:block">
        {take.bag}
        <span className="block text-sm">{kitInWords(kit)}</span>
      </span>
      <Window open={asked} close={() => setAsked(false)} title="At the bag" width="xl" far>
        <div className="mt-3 grid grid-cols-2 gap-3">
          {others.map((o) => (
            <button key={o.student_id} className="action min-h-16 text-lg" onClick={() => turn(o.student_id)}>
              {o.name}
            </button>
          ))}
        </div>
        {others.length === 0 && <p className="mt-2 text-soft">Nobody else is marked as here tonight.</p>}
        <div className="mt-5 grid grid-cols-2 gap-3 border-t border-line pt-4">
          <button className="action-main min-h-16 text-lg" onClick={finish}>
            {take.student.split(" ")[0]} is done
          </button>
          <button className="action min-h-16 text-lg" onClick={() => setAsked(false)}>
            Go on
          </button>
          <Link className="action grid min-h-16 place-items-center text-lg" to={`/students/${take.student_id}/prepare`}>
            Prepare
          </Link>
          <Link className="action grid min-h-16 place-items-center text-lg" to="/bags">
            All bags
          </Link>
        </div>
      </Window>
    </header>
  );
}
