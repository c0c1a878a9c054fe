import { show } from "../../format";
import { useUnits } from "../../ui/settings";
import type { Schemas } from "../../api/client";
import type { Figure } from "../heard/figure";
import type { Struck } from "../heard/take";
import { wordFor } from "../heard/words";

/** The one thing that is read from three metres. */
export function BigFigure({ figure, strike, usual }: { figure: Figure; strike: Struck | undefined; usual: Schemas["Usual"] | undefined }) {
  const [units] = useUnits();
  const m = figure.measure;
  const measured = strike?.measures[m.name];
  const shown = measured ? show(m, measured[0], measured[1], units) : null;
  const unsure = strike?.flags.includes("provisional");
  let text = shown?.value ?? "";
  if (figure.choice === "word") text = measured ? wordFor(measured[0]!, usual) : "";
  if (figure.choice === "none") text = strike ? "●" : "";
  const later = unsure ? "after the set: so soon it would be too unsure" : "not measured on this one";
  const why = strike && !measured && figure.choice !== "none" ? (strike.whole ? later : "in a moment, or after the set") : "";
  return (
    <>
      <div className="@container-[size] min-h-24 flex-1" style={{ containerType: "size" }}>
        <output
          aria-live="polite"
          aria-label={figure.choice === "none" ? "Strikes are counted, no figure is shown" : `${m.label}: ${shown ? `${shown.value} ${shown.unit} ${shown.doubt ?? ""}` : "none yet"}`}
          data-figure={text}
          className={`figure flex h-full items-center leading-none ${unsure ? "text-ink/85" : ""}`}
          style={{ fontSize: `min(92cqh, ${100 / (Math.max(text.length, 3) * 0.66)}cqw)` }}
        >
          {text || <span className="text-3xl font-normal text-soft [font-stretch:100%]">{strike ? "" : "waiting for the first one"}</span>}
        </output>
      </div>
      <p className="text-xl sm:text-3xl">
        {figure.choice === "none" ? (
          <span className="text-soft">no figure, on purpose</span>
        ) : (
          <>
            <b>{shown?.unit ?? ""}</b> {m.label.toLowerCase()}{" "}
            <span className="numeric text-lg text-soft sm:text-2xl">
              {shown?.doubt} {unsure && measured && "for now"}
            </span>
            {why && <span className="ml-2 text-lg text-soft">{why}</span>}
          </>
        )}
      </p>
    </>
  );
}
