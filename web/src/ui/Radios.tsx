import { Radio, RadioGroup } from "@headlessui/react";
import type { ReactNode } from "react";

interface Props<T> {
  name: string;
  values: readonly T[];
  chosen: T | null;
  choose: (value: T) => void;
  tell: (value: T) => ReactNode;
  keyOf?: (value: T) => string | number;
  className: string; //: of the group
  each?: string; //: of each one
  touched?: () => void; //: one was clicked, the chosen one or another
}

/** One of a few, each a button; the arrow keys go from one to the next and choose it. */
export function Radios<T>({ name, values, chosen, choose, tell, keyOf = String, className, each = "", touched }: Props<T>) {
  const of = (value: T | null) => (value === null ? null : keyOf(value));
  return (
    <RadioGroup aria-label={name} className={className} value={of(chosen)} onChange={(key) => choose(values.find((v) => keyOf(v) === key)!)}>
      {values.map((v) => (
        <Radio key={keyOf(v)} as="button" type="button" value={keyOf(v)} className={({ checked }) => `${checked ? "action-main" : "action"} ${each}`} onClick={touched}>
          {tell(v)}
        </Radio>
      ))}
    </RadioGroup>
  );
}
