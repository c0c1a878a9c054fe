import { DialogTitle } from "@headlessui/react";
import { useState } from "react";
import { usePain, useWrite } from "../../log/log";
import { useZone } from "../../api/queries";
import { today } from "../../format";
import { Problem } from "../../ui/state";
import { say } from "../../ui/toast";
import type { Take } from "../heard/take";
import { Window } from "../../ui/Window";
import { Radios } from "../../ui/Radios";

const SIDES = ["left", "right"] as const;
const PAIRED = ["wrist", "hand", "elbow", "shoulder", "hip", "knee", "shin", "ankle", "foot"];
const SINGLE = ["neck", "back", "head"];

/** Between sets, with gloves on: where it hurts in two taps, or a note. */
export function WriteDown({ take }: { take: Take }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button className="action min-h-16 min-w-16 px-4 text-base" aria-haspopup="dialog" onClick={() => setOpen(true)}>
        It hurts, or a note
      </button>
      <Window open={open} close={() => setOpen(false)} title="" width="3xl" far>
        <What take={take} close={() => setOpen(false)} />
      </Window>
    </>
  );
}

function What({ take, close }: { take: Take; close: () => void }) {
  const zone = useZone();
  const pain = usePain();
  const write = useWrite();
  const [side, setSide] = useState<(typeof SIDES)[number]>("left");
  const [text, setText] = useState("");
  const busy = pain.isPending || write.isPending;
  const hurts = (where: string) =>
    pain.mutate(
      { student: take.student_id, since: today(zone), text: where },
      {
        onSuccess: () => {
          close();
          say({ text: `Noted: ${where} hurts. Stop, and see a professional if it stays. Nothing is planned for it until it is cleared in the log.` });
        },
      },
    );
  const key = "action min-h-16 min-w-0 px-1 text-base";
  return (
    <>
      <DialogTitle className="wide-title text-2xl">Where does it hurt?</DialogTitle>
      <Radios name="Side" values={SIDES} chosen={side} choose={setSide} tell={(s) => (s === "left" ? "Left" : "Right")} className="mt-3 flex gap-3" each="min-h-16 flex-1 text-xl" />
      <div className="mt-3 grid grid-cols-3 gap-3 sm:grid-cols-6">
        {PAIRED.map((place) => (
          <button key={place} className={key} disabled={busy} onClick={() => hurts(`${side} ${place}`)}>
            {place}
          </button>
        ))}
        {SINGLE.map((place) => (
          <button key={place} className={key} disabled={busy} onClick={() => hurts(place)}>
            {place}
          </button>
        ))}
      </div>
      <form
        className="mt-5 flex gap-3 border-t border-line pt-4"
        onSubmit={(e) => {
          e.preventDefault();
          write.mutate({ student: take.student_id, day: today(zone), text }, { onSuccess: close });
        }}
      >
        <input className="field min-h-16 flex-1 text-base" aria-label="Or a note" placeholder="Or a note" required maxLength={4000} value={text} onChange={(e) => setText(e.target.value)} />
        <button className="action-main min-h-16 px-6 text-base" disabled={busy}>
          Keep
        </button>
        <button type="button" className="action min-h-16 px-6 text-base" onClick={close}>
          Close
        </button>
      </form>
      <Problem error={pain.error ?? write.error} />
    </>
  );
}
