import { Combobox, ComboboxButton, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useState, type ReactNode } from "react";

export interface Pick {
  value: string;
  name: string; //: as a coach says it
  also?: string[]; //: what else it is called
  picture?: ReactNode;
}

interface Props {
  label: string;
  value: string;
  picks: Pick[];
  onChange: (value: string) => void;
  add?: (name: string) => void; //: something new, only ever by this
  adding?: string; //: what the step says that does it, as "Add … to our gym"
  placeholder?: string;
  none?: string; //: what is said where nothing is found
  autoFocus?: boolean;
  required?: boolean;
}

const NEW = "\u0000new";

/** One of many, found by any of its names. What is typed and chosen from nothing changes nothing. */
export function Picker({ label, value, picks, onChange, add, adding = "Add", none = "Nothing is called so.", placeholder, autoFocus, required }: Props) {
  const [typed, setTyped] = useState("");
  const found = matching(picks, typed);
  const wanted = typed.trim();
  const isNew = add !== undefined && wanted !== "" && found.length === 0; // beside what is like it, a slip would do it
  const shown = picks.find((p) => p.value === value)?.name ?? value;
  const choose = (picked: string | null) => {
    if (picked === NEW) add?.(wanted);
    else if (picked !== null) onChange(picked);
    setTyped("");
  };
  return (
    <Combobox immediate={!autoFocus} value={value} onChange={choose} onClose={() => setTyped("")}>
      <div className="relative">
        <ComboboxInput
          className="field w-full pr-10"
          aria-label={label}
          autoComplete="off"
          autoFocus={autoFocus}
          required={required}
          placeholder={placeholder}
          maxLength={60}
          displayValue={() => shown}
          onChange={(e) => setTyped(e.target.value)}
          onFocus={(e) => e.target.select()}
        />
        <ComboboxButton className="absolute inset-y-0 right-0 w-10 text-soft" aria-label="The whole list">
          <svg viewBox="0 0 20 20" className="mx-auto size-4" aria-hidden="true">
            <path d="M4 7l6 6 6-6" fill="none" stroke="currentColor" strokeWidth="2" />
          </svg>
        </ComboboxButton>
        <ComboboxOptions modal={false} anchor={{ to: "bottom start", gap: 2, padding: 8 }} className="z-40 max-h-80 w-(--input-width) min-w-80 overflow-auto rounded-sm border border-line bg-raised py-1 shadow-lg">
          {found.map((p) => (
            <ComboboxOption key={p.value} value={p.value} className="flex min-h-11 cursor-pointer items-center gap-3 px-3 data-focus:bg-shade data-selected:font-semibold">
              {p.picture}
              <span className="flex-1">{p.name}</span>
              {p.also && p.also.length > 0 && <span className="text-2xs text-soft">{p.also.join(", ")}</span>}
            </ComboboxOption>
          ))}
          {isNew && (
            <ComboboxOption value={NEW} className="flex min-h-11 cursor-pointer items-center px-3 text-oar data-focus:bg-shade">
              {adding.replace("…", `“${wanted}”`)}
            </ComboboxOption>
          )}
          {found.length === 0 && !isNew && <p className="px-3 py-2 text-soft">{none}</p>}
        </ComboboxOptions>
      </div>
    </Combobox>
  );
}

function names(p: Pick): string[] {
  return [p.name, ...(p.also ?? [])].map((n) => n.toLowerCase());
}

/** Those that hold every word of what was typed, by all their names; a name that is just that, or begins so, first. */
export function matching(picks: Pick[], typed: string): Pick[] {
  const wanted = typed.trim().toLowerCase();
  if (!wanted) return picks;
  const rank = (p: Pick) => (names(p).includes(wanted) ? 0 : names(p).some((n) => n.startsWith(wanted)) ? 1 : 2);
  return picks
    .filter((p) => wanted.split(/\s+/).every((word) => names(p).join(" ").includes(word)))
    .map((p, k) => ({ p, k }))
    .sort((a, b) => rank(a.p) - rank(b.p) || a.k - b.k)
    .map(({ p }) => p);
}
