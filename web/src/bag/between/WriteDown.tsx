import { DialogTitle } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { RESTS } from "../../log/log";
import { useZone } from "../../api/queries";
import { today } from "../../format";
import { say } from "../../ui/toast";
import { tap, type Tap } from "../taps/outbox";
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
  const [side, setSide] = useState<(typeof SIDES)[number]>("left");
  const [text, setText] = useState("");
  const queries = useQueryClient();
  /** Kept on the tablet until the server has it, as every tap is. */
  const keep = (one: Tap, told: string) => {
    tap(
      one,
      (error) => say({ text: `Not noted: ${error.message}` }),
      () => RESTS.forEach((rest) => void queries.invalidateQueries({ queryKey: [rest] })),
    );
    close();
    say({ text: told });
  };
  const hurts = (where: string) =>
    keep(
      { what: "hurts", take: take.id, student: take.student_id, body: { kind: "injury", since: today(zone), until: null, text: where } },
      `Noted: ${where} hurts. Stop, and see a professional if it stays. Nothing is planned for it until it is cleared in the log.`,
    );
  const key = "action min-h-16 min-w-0 px-1 text-base";
  return (
    <>
      <DialogTitle className="wide-title text-2xl">Where does it hurt?</DialogTitle>
      <Radios name="Side" values={SIDES} chosen={side} choose={setSide} tell={(s) => (s === "left" ? "Left" : "Right")} className="mt-3 flex gap-3" each="min-h-16 flex-1 text-xl" />
      <div className="mt-3 grid grid-cols-3 gap-3 sm:grid-cols-6">
        {PAIRED.map((place) => (
          <button key={place} className={key} onClick={() => hurts(`${side} ${place}`)}>
            {place}
          </button>
        ))}
        {SINGLE.map((place) => (
          <button key={place} className={key} onClick={() => hurts(place)}>
            {place}
          </button>
        ))}
      </div>
      <form
        className="mt-5 flex gap-3 border-t border-line pt-4"
        onSubmit={(e) => {
          e.preventDefault();
          keep({ what: "note", take: take.id, body: { student: take.student_id, day: today(zone), text } }, "Noted.");
        }}
      >
        <input className="field min-h-16 flex-1 text-base" aria-label="Or a note" placeholder="Or a note" required maxLength={4000} value={text} onChange={(e) => setText(e.target.value)} />
        <button className="action-main min-h-16 px-6 text-base">
          Keep
        </button>
        <button type="button" className="action min-h-16 px-6 text-base" onClick={close}>
          Close
        </button>
      </form>
    </>
  );
}
