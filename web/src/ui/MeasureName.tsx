import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import type { Measure } from "../format";

/** A measure's name, which opens to what it answers, what it is, and what it was computed from. */
export function MeasureName({ measure, className = "", text }: { measure: Measure; className?: string; text?: string }) {
  return (
    <Popover as="span" className={className}>
      <PopoverButton className="min-h-6 min-w-6 text-left underline decoration-soft decoration-dotted underline-offset-2 hover:decoration-ink" aria-label={text ? `${measure.label}: what it is` : undefined}>
        {text ?? measure.label}
      </PopoverButton>
      <PopoverPanel anchor={{ to: "bottom start", gap: 4, padding: 8 }} className="z-40 w-80 rounded border border-line bg-raised p-3 text-left text-sm font-normal text-ink shadow-lg [font-stretch:100%]">
        <Meaning measure={measure} />
      </PopoverPanel>
    </Popover>
  );
}

/** In plain words first, then by definition. */
export function Meaning({ measure }: { measure: Measure }) {
  return (
    <>
      <p className="font-semibold">{measure.plain}</p>
      <p className="mt-1">{measure.meaning}</p>
      <p className="mt-1 text-2xs text-soft">From: {measure.computed_from}</p>
    </>
  );
}
