import { placeName } from "../format";
import { useConnected } from "./heard/events";
import { silent, whatStillCounts } from "./heard/kit";
import { useRefused, useWaiting } from "./taps/outbox";
import { useBehind, useKit, useMissing, type Take } from "./heard/take";

/** What goes wrong, and what counts all the same: one line, and only while it lasts. */
export function Trouble({ take, problem }: { take: Take; problem: Error | null }) {
  const connected = useConnected();
  const waiting = useWaiting().length;
  const refused = useRefused();
  const kit = useKit(take.station_id);
  const behind = useBehind(take.station_id);
  const missing = useMissing(take.station_id);
  const gone = Object.keys(kit).filter((p) => silent(kit[p]!));
  const all = Object.keys(kit).length;
  let said = "";
  if (problem) said = problem.message || "That could not be done. Try again.";
  else if (refused) said = `A tap from before was not taken: ${refused.message}`;
  else if (!connected) said = `No line to the server. The hub goes on recording${waiting ? `; ${waiting} taps wait here` : ""}. Everything joins up after.`;
  else if (waiting) said = "The server takes its time. Taps wait here and count from when they were made.";
  else if (behind) said = behind;
  else if (missing) said = "No hub sends from this bag. Switch it on, or look at its token under Kit.";
  else if (all && gone.length === all) said = "The hub sends nothing. If it is on, it keeps what it records until it gets through.";
  else if (gone.length) said = `${gone.map(placeName).join(" and ")} silent: wake it. ${whatStillCounts(gone[0]!)}`;
  return (
    <div role="status" className="min-h-0">
      {said && <p className="mt-2 border-l-4 border-buoy bg-shade py-2 pl-3 text-base font-semibold">{said}</p>}
    </div>
  );
}
