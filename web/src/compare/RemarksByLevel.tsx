import { useRemarked, type Asked } from "../api/trials";

/** What the coach remarked on under either level: counted, never weighed. */
export function RemarksByLevel({ trialId, asked, levels }: { trialId: number; asked: Asked; levels: string[] }) {
  const said = useRemarked(trialId, asked).data ?? [];
  if (said.length === 0) return null;
  return (
    <table className="w-full text-left">
      <caption className="wide-title pb-1 text-left text-base">What you remarked on</caption>
      <thead>
        <tr className="text-2xs text-soft [&>th]:font-normal">
          <th>Remark</th>
          {levels.map((l) => (
            <th key={l} className="text-right">
              {l}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {said.map((r) => (
          <tr key={r.what} className="border-t border-line">
            <th scope="row" className="font-normal">
              {r.what}
            </th>
            {r.strikes.map((n, k) => (
              <td key={levels[k]} className="numeric text-right whitespace-nowrap">
                <b>{n}</b> <span className="text-soft">of {r.of[k]}</span>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
