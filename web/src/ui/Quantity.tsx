import { useState } from "react";
import { convert, shortest, type System } from "../format";
import { Labelled } from "./Form";
import { useUnits } from "./settings";

interface Props {
  value: number | null | undefined; //: SI
  unit: string; //: SI
  decimals: number;
  onChange: (value: number | null) => void;
}

/** What a field of a quantity takes: its text in the units that are set, which the coach's own typing is until they change. */
export function useQuantity({ value, unit, decimals, onChange }: Props) {
  const [units] = useUnits();
  const [typed, setTyped] = useState<{ text: string; units: System } | null>(null);
  // metres with three decimals are shown in millimetres; they are asked for in metres
  const [factor, name, places] = convert(1, unit, Math.min(decimals, 2), units);
  const there = value === null || value === undefined ? "" : shortest(value * factor, Math.max(places, decimals));
  return {
    unit: name,
    text: typed?.units === units ? typed.text : there,
    set: (text: string) => {
      setTyped({ text, units });
      onChange(text.trim() === "" ? null : Number(text) / factor);
    },
  };
}

/** A quantity that is asked for in the units that are set, and kept in SI. */
export function Quantity({ name, required = false, anything = false, placeholder, className, wide = "w-full", ...props }: Props & { name: string; required?: boolean; anything?: boolean; placeholder?: number | null; className?: string; wide?: string }) {
  const field = useQuantity(props);
  const [units] = useUnits();
  const hint = placeholder === null || placeholder === undefined ? undefined : shortest(convert(placeholder, props.unit, 2, units)[0], props.decimals);
  return (
    <Labelled name={field.unit ? `${name}, ${field.unit}` : name} className={className}>
      <input className={`field ${wide}`} type="number" inputMode="decimal" step="any" min={anything ? undefined : 0} required={required} placeholder={hint} value={field.text} onChange={(e) => field.set(e.target.value)} />
    </Labelled>
  );
}

/** The same within a row that names it itself: the field, and its unit after it. */
export function BareQuantity({ label, disabled, ...props }: Props & { label: string; disabled?: boolean }) {
  const field = useQuantity(props);
  return <input className="field w-18" type="number" step="any" aria-label={field.unit ? `${label}, ${field.unit}` : label} title={field.unit} disabled={disabled} value={field.text} onChange={(e) => field.set(e.target.value)} />;
}
