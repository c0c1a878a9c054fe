import { useState } from "react";
import type { Saying } from "../taps/saying";
import { Window } from "../../ui/Window";

/** What is said most, one tap on the last strike each; the rest, and what throws it out, one tap further. */
export function Remarks({ saying }: { saying: Saying }) {
  const [more, setMore] = useState(false);
  const { strike, words } = saying;
  const said = strike?.remarks ?? [];
  const tap = (act: () => void) => {
    setMore(false);
    act();
  };
  return (
    <div role="group" aria-label={strike ? `Remarks on strike ${strike.number}` : "Remarks"} className="flex min-w-0 flex-1 gap-2 sm:gap-3">
      {words.slice(0, 4).map((word, k) => (
        <button key={word} aria-pressed={said.includes(word)} disabled={!strike} className={`${said.includes(word) ? "action-main" : "action"} min-h-16 min-w-0 flex-1 px-1 text-base leading-tight sm:text-lg ${k > 1 ? "hidden sm:block" : ""} ${k > 2 ? "sm:hidden lg:block" : ""}`} onClick={() => saying.remark(word)}>
          {word}
        </button>
      ))}
      <button disabled={!strike} className="action min-h-16 min-w-0 flex-1 border-line px-1 text-base leading-tight text-soft sm:text-lg" onClick={saying.notAStrike}>
        not a strike
      </button>
      <button disabled={!strike} aria-haspopup="dialog" className="action min-h-16 min-w-16 border-line px-2 text-lg text-soft" onClick={() => setMore(true)}>
        more
      </button>
      <Window open={more} close={() => setMore(false)} title={<>Strike {strike?.number}</>} width="3xl" far>
        <div className="mt-3 grid grid-cols-3 gap-3 md:grid-cols-4">
          {words.map((word) => (
            <button key={word} aria-pressed={said.includes(word)} className={`${said.includes(word) ? "action-main" : "action"} min-h-16 text-lg`} onClick={() => tap(() => saying.remark(word))}>
              {word}
            </button>
          ))}
        </div>
        <div className="mt-4 grid grid-cols-3 gap-3 border-t border-line pt-4">
          <button className="action min-h-16 text-lg" onClick={() => tap(saying.notAStrike)}>
            not a strike
          </button>
          <button className="action min-h-16 text-lg" onClick={() => tap(saying.wrongStrike)}>
            wrong strike
          </button>
          <button className="action min-h-16 text-lg" onClick={() => setMore(false)}>
            Close
          </button>
        </div>
      </Window>
    </div>
  );
}
