import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef } from "react";
import { landed, limbName, show, unitOf, type Measure } from "../format";
import { MeasureName } from "../ui/MeasureName";
import { useReading } from "./reading";

const ROW_PX = 32;
const HEAD_PX = 58;
const FILTERS: [string, string][] = [
  ["", "All strikes"],
  ["counted", "Counted only"],
  ["out", "Thrown out"],
  ["flagged", "With a flag"],
];

/** Every strike as a row; only the rows in sight are drawn, so that five thousand scroll like fifty. */
export function StrikeTable({ rows }: { rows: number[] }) {
  const { strikes, registry, view, change, chosen, choose: onChoose, units } = useReading();
  const box = useRef<HTMLDivElement>(null);
  const columns = useMemo(() => registry.measures.filter((m) => m.numeric && view.columns.includes(m.name)), [registry, view.columns]);
  const list = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => ROW_PX, overscan: 12, scrollPaddingStart: HEAD_PX, scrollPaddingEnd: HEAD_PX + ROW_PX });
  const place = rows.indexOf(chosen);
  useEffect(() => {
    if (place >= 0) list.scrollToIndex(place);
  }, [list, place]);
  const limbs = useMemo(() => [...new Set(strikes.limb)].sort(), [strikes]);
  const template = `2.6rem ${strikes.kind.every((k) => k === "bag") ? 6.2 : 9}rem ${columns.map(() => "minmax(3.8rem,1fr)").join(" ")}`;
  const sort = (name: string) => change({ sort: name, down: view.sort === name ? !view.down : name !== "number" && name !== "limb" });
  const arrow = (name: string) => (view.sort !== name ? "↕" : view.down ? "↓" : "↑");
  const head = (name: string, label: string, right = true) => (
    <div key={name} role="columnheader" aria-sort={view.sort === name ? (view.down ? "descending" : "ascending") : "none"} className={right ? "text-right" : ""}>
      <button className={`min-h-10 leading-tight font-semibold hover:underline ${right ? "text-right" : "text-left"}`} onClick={() => sort(name)}>
        {label} {view.sort === name && <span aria-hidden="true">{arrow(name)}</span>}
      </button>
    </div>
  );
  // a measure's name opens its meaning, as everywhere; what sorts stands below it
  const measureHead = (m: Measure) => (
    <div key={m.name} role="columnheader" aria-sort={view.sort === m.name ? (view.down ? "descending" : "ascending") : "none"} className="flex flex-col items-end">
      <MeasureName measure={m} className="text-right leading-tight font-semibold [&>button]:text-right" />
      <button className="min-h-6 whitespace-nowrap text-soft hover:text-ink hover:underline" aria-label={`Sort by ${m.label}`} onClick={() => sort(m.name)}>
        {unitOf(m, units)} <span aria-hidden="true">{arrow(m.name)}</span>
      </button>
    </div>
  );
  return (
    <section aria-label="Strikes" className="order-last col-span-2 flex h-112 min-h-0 flex-col lg:order-none lg:col-span-1 lg:h-auto">
      <div className="no-print flex flex-wrap items-center gap-2 pb-2">
        <select className="field" aria-label="Which strikes" value={view.keep} onChange={(e) => change({ keep: e.target.value })}>
          {FILTERS.map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </select>
        <select className="field" aria-label="Limb" value={view.limb} onChange={(e) => change({ limb: e.target.value })}>
          <option value="">Any limb</option>
          {limbs.map((limb) => (
            <option key={limb} value={limb}>
              {limbName(limb)}
            </option>
          ))}
        </select>
        <Columns />
        <span className="numeric ml-auto text-soft">{rows.length}</span>
      </div>
      <div ref={box} role="grid" aria-label="Strikes" aria-rowcount={rows.length + 1} className="min-h-0 flex-1 overflow-auto border-y border-line" tabIndex={0}>
        <div role="row" aria-rowindex={1} className="sticky top-0 z-10 grid items-center gap-x-1.5 border-b border-line bg-ground pr-2" style={{ gridTemplateColumns: template }}>
          {head("number", "No.")}
          {head("limb", "Limb", false)}
          {columns.map(measureHead)}
        </div>
        {rows.length === 0 && <p className="p-4 text-soft">No strike fits these filters.</p>}
        <div className="relative" style={{ height: list.getTotalSize() }} role="rowgroup">
          {list.getVirtualItems().map((item) => {
            const i = rows[item.index]!;
            const out = strikes.excluded[i] !== "";
            return (
              <div
                key={strikes.id[i]}
                role="row"
                aria-rowindex={item.index + 2}
                aria-selected={i === chosen}
                className={`numeric absolute inset-x-0 grid cursor-pointer items-center gap-x-1.5 pr-2 ${i === chosen ? "bg-ink text-ground" : "hover:bg-shade"} ${out ? "line-through decoration-1" : ""}`}
                style={{ gridTemplateColumns: template, height: ROW_PX, transform: `translateY(${item.start}px)` }}
                onClick={() => onChoose(i)}
              >
                <div role="gridcell" className="text-right">
                  {strikes.number[i]}
                </div>
                <div role="gridcell" className="truncate">
                  <LimbMark limb={strikes.limb[i]!} hollow={out} /> {limbName(strikes.limb[i]!)}
                  {landed(strikes.kind[i]!) && `, ${landed(strikes.kind[i]!).split(" ").at(-1)}`}
                </div>
                {columns.map((m) => {
                  const shown = show(m, strikes.values[m.name]?.[i], null, units);
                  return (
                    <div key={m.name} role="gridcell" className="text-right">
                      {shown ? shown.value : <span title="not measured">–</span>}
                    </div>
                  );
                })}
              </div>
            );
          })}
        </div>
      </div>
    </section>
  );
}

/** The strip's mark in small: round is left, a diamond right, a square unknown. */
function LimbMark({ limb, hollow }: { limb: string; hollow: boolean }) {
  const fill = hollow ? "none" : "currentColor";
  return (
    <svg width={10} height={10} viewBox="0 0 10 10" aria-hidden="true" className="mr-1 inline-block">
      {limb.startsWith("left") ? (
        <circle cx={5} cy={5} r={3.5} fill={fill} stroke="currentColor" />
      ) : limb.startsWith("right") ? (
        <path d="M5 0.8 9.2 5 5 9.2 0.8 5Z" fill={fill} stroke="currentColor" />
      ) : (
        <rect x={1.5} y={1.5} width={7} height={7} fill={fill} stroke="currentColor" />
      )}
    </svg>
  );
}

function Columns() {
  const { registry, view, change } = useReading();
  return (
    <Popover className="relative">
      <PopoverButton className="action">Columns</PopoverButton>
      <PopoverPanel className="absolute z-20 mt-1 w-56 rounded border border-line bg-raised p-3 shadow-lg">
        <fieldset>
          <legend className="pb-1 font-semibold">Show in the table</legend>
          {registry.measures
            .filter((m) => m.numeric)
            .map((m) => (
              <label key={m.name} className="flex min-h-8 items-center gap-2">
                <input
                  type="checkbox"
                  className="size-4"
                  checked={view.columns.includes(m.name)}
                  onChange={(e) => change({ columns: e.target.checked ? [...view.columns, m.name] : view.columns.filter((c) => c !== m.name) })}
                />
                {m.label}
              </label>
            ))}
        </fieldset>
      </PopoverPanel>
    </Popover>
  );
}
