import { Picker, type Pick } from "../ui/Picker";
import { useStrikeName, useStrikeNames } from "../ui/StrikePicker";

interface Props {
  label: string;
  chosen: string[];
  picks: Pick[];
  none: string; //: what it means that nothing was chosen
  change: (chosen: string[]) => void;
}

/** Some of many: each taken off by one click, one more found by its name. */
export function Several({ label, chosen, picks, none, change }: Props) {
  const nameOf = (value: string) => picks.find((p) => p.value === value)?.name ?? value;
  return (
    <div className="flex flex-wrap items-center gap-1">
      {chosen.map((one) => (
        <button key={one} type="button" className="action px-2 py-1" aria-label={`${label}: without ${nameOf(one)}`} onClick={() => change(chosen.filter((c) => c !== one))}>
          {nameOf(one)} ×
        </button>
      ))}
      <div className="w-44">
        <Picker label={label} value="" placeholder={chosen.length ? "one more" : none} picks={picks.filter((p) => !chosen.includes(p.value))} onChange={(value) => change([...chosen, value])} />
      </div>
    </div>
  );
}

/** Families from either side, then single strikes. */
export function useStrikePicks(): Pick[] {
  const known = useStrikeNames().data ?? [];
  const nameOf = useStrikeName();
  const families = [...new Set(known.map((s) => s.code.replace(/^(lead|rear)-/, "")))];
  return [...families.map((f) => ({ value: f, name: `${nameOf(f)}, either side` })), ...known.map((s) => ({ value: s.code, name: s.name, also: s.also }))];
}
