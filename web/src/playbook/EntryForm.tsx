import { useState } from "react";
import { useRegistry } from "../api/queries";
import { findMeasure } from "../format";
import { Form, Labelled } from "../ui/Form";
import { Quantity } from "../ui/Quantity";
import { Picker, type Pick } from "../ui/Picker";
import { useSaveEntry, usePlaybook, type Content, type Entry } from "./entries";
import { FIELDS, type Field } from "./fields";
import { Several, useStrikePicks } from "./Several";

interface Props {
  content: Content;
  entry?: Entry; //: that is changed; none: a new one
  close: () => void;
}

/** An entry written anew, whatever its kind. */
export function EntryForm({ content, entry, close }: Props) {
  const [text, setText] = useState<Record<string, unknown>>({ ...content });
  const save = useSaveEntry();
  const set = (name: string, value: unknown) => setText((t) => ({ ...t, [name]: value }));
  const send = () => {
    const tidy = Object.fromEntries(Object.entries(text).map(([name, v]) => [name, Array.isArray(v) ? v.map((w: string) => w.trim()).filter(Boolean) : v]));
    save.mutate({ content: tidy as Content, key: entry?.key ?? "", version: entry?.version ?? 0 }, { onSuccess: close });
  };
  return (
    <Form submit="Save" busy={save.isPending} error={save.error} save={send} close={close}>
      <div className="grid gap-x-6 gap-y-3 md:grid-cols-2">
        {FIELDS[content.kind].map((f, k) => (
          <OneField key={f.name} field={f} measure={text.measure as string | undefined} value={text[f.name]} set={(v) => set(f.name, v)} disabled={!!f.fixed && !!entry} focus={k === 0} />
        ))}
      </div>
    </Form>
  );
}

function OneField({ field, measure, value, set, disabled, focus }: { field: Field; measure: string | undefined; value: unknown; set: (value: unknown) => void; disabled: boolean; focus: boolean }) {
  const registry = useRegistry().data;
  const book = usePlaybook().data ?? [];
  const strikes = useStrikePicks();
  const measures: Pick[] = (registry?.measures ?? []).map((m) => ({ value: m.name, name: m.label }));
  const drills: Pick[] = book.filter((e) => e.kind === "drill" && !e.off).map((e) => ({ value: e.key, name: e.content.name }));
  const said: Pick[] = Object.values(registry?.remarks ?? {}).flatMap((words) => words.map((w) => ({ value: w, name: w })));
  const some = { measures: [measures, "none"], strikes: [strikes, "every strike"], said: [said, "none"] } as const;
  if (field.as === "yes")
    return (
      <label className="flex min-h-11 items-center gap-2 self-end font-semibold">
        <input type="checkbox" className="size-5" checked={!!value} onChange={(e) => set(e.target.checked)} />
        {field.label}
      </label>
    );
  if (field.as === "measures" || field.as === "strikes" || field.as === "said")
    return (
      <div>
        <span className="mb-1 block font-semibold">{field.label}</span>
        <Several label={field.label} chosen={value as string[]} picks={some[field.as][0] as Pick[]} none={some[field.as][1]} change={set} />
      </div>
    );
  if (field.as === "measure" || field.as === "drill")
    return (
      <div>
        <span className="mb-1 block font-semibold">{field.label}</span>
        <Picker label={field.label} value={value as string} picks={field.as === "drill" ? drills : [{ value: "", name: "no measure" }, ...measures]} onChange={set} />
      </div>
    );
  const of = field.name === "edge" && registry && measure ? findMeasure(registry, measure) : undefined;
  if (of) return <Quantity key={of.name} name={field.label} unit={of.unit} decimals={of.decimals} wide="w-28" anything value={value as number | null} onChange={set} />;
  return (
    <Labelled name={field.label}>
      {field.as === "lines" ? (
        <textarea className="field w-full" rows={Math.max(4, (value as string[]).length + 1)} value={(value as string[]).join("\n")} onChange={(e) => set(e.target.value.split("\n"))} />
      ) : field.as === "number" ? (
        <input className="field w-28" type="number" step="any" required={field.name !== "edge"} value={(value as number | null) ?? ""} onChange={(e) => set(e.target.value === "" ? null : Number(e.target.value))} />
      ) : (
        <input className="field w-full" required={field.name === "name"} autoFocus={focus} disabled={disabled} maxLength={field.name === "name" ? 160 : 240} value={value as string} onChange={(e) => set(e.target.value)} />
      )}
    </Labelled>
  );
}
