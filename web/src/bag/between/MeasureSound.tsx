import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { Problem } from "../../ui/state";
import { now, serverClock } from "../heard/clock";
import { beepAt, forgetDelay, keepDelay, soundDelay, wakeSound } from "../taps/sounds";
import { Window } from "../../ui/Window";

const BEEPS = 12;
const EVERY_MS = 900;
const BEGINS_MS = 1500;
const LANDED_MS = 2000; // until the last tap's samples are with the server

/** How late this tablet sounds: beeps, and somebody taps the bag with each. */
export function MeasureSound({ takeId, close }: { takeId: number; close: () => void }) {
  const [beat, setBeat] = useState(0);
  const [known, setKnown] = useState(soundDelay());
  const measure = useMutation({
    mutationFn: async () => {
      wakeSound();
      const first = now() + BEGINS_MS;
      const given = Array.from({ length: BEEPS }, (_, k) => first + EVERY_MS * k);
      for (const at of given) beepAt(at);
      given.forEach((at, k) => setTimeout(() => setBeat(k + 1), at - now()));
      await new Promise((done) => setTimeout(done, given.at(-1)! - now() + LANDED_MS));
      setBeat(0);
      const { offset_ms, doubt_ms } = serverClock();
      const beeps = given.map((at) => new Date(at + offset_ms).toISOString());
      return unwrap(await client.POST("/api/takes/{take_id}/beeps", { params: { path: { take_id: takeId } }, body: { beeps, doubt_ms } }));
    },
    onSuccess: ({ delay_ms, doubt_ms }) => {
      keepDelay(delay_ms, doubt_ms);
      setKnown(soundDelay());
    },
    onError: () => setBeat(0),
  });
  return (
    <Window close={close} title="The sound of this tablet" far>
      <p className="mt-2 text-lg">
        A loudspeaker sounds late, one without a wire by a quarter of a second. Reaction times want to know by how much. Listen to two beeps, then tap the bag with the fist at each of the next ten.
      </p>
      <p className="mt-3 text-lg" role="status">
        {measure.isPending ? (
          <span className="figure text-5xl">{beat === 0 ? "…" : `${beat} of ${BEEPS}`}</span>
        ) : known.measured ? (
          <>
            It sounds <b className="numeric">{Math.round(known.ms)} ms</b> late, <span className="numeric text-soft">±{Math.round(2 * known.doubt_ms)}</span>
            {measure.data && <span className="text-soft">, from {measure.data.taps} taps</span>}.
          </>
        ) : (
          <span className="text-soft">Not measured yet: {known.ms ? `the browser says ${Math.round(known.ms)} ms` : "the browser does not say either"}.</span>
        )}
      </p>
      <div className="mt-5 flex flex-wrap gap-3">
        <button className="action-main min-h-16 flex-1 text-xl" disabled={measure.isPending} onClick={() => measure.mutate()}>
          {known.measured ? "Measure anew" : "Begin the beeps"}
        </button>
        {known.measured && (
          <button
            className="action min-h-16 px-6 text-lg"
            disabled={measure.isPending}
            onClick={() => {
              forgetDelay();
              setKnown(soundDelay());
            }}
          >
            Another loudspeaker
          </button>
        )}
        <button className="action min-h-16 px-6 text-lg" onClick={close}>
          Close
        </button>
      </div>
      <Problem error={measure.error} />
    </Window>
  );
}
