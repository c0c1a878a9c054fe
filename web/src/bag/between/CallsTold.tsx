import type { Take } from "../heard/take";

/** What was called against what landed, and how soon. */
export function CallsTold({ take }: { take: Take }) {
  const heard = take.calls.filter((c) => c.sounded);
  if (!heard.length) return null;
  const wanted = heard.reduce((n, c) => n + c.wanted, 0);
  const landed = heard.reduce((n, c) => n + c.landed, 0);
  const right = heard.reduce((n, c) => n + c.right, 0);
  const soon = heard.flatMap((c) => c.response_ms ?? []).sort((a, b) => a - b);
  const middle = soon[Math.floor(soon.length / 2)];
  const doubt = Math.max(...heard.map((c) => c.doubt_ms));
  const slow = heard.filter((c) => c.response_ms === null).length;
  return (
    <div className="mt-3 text-xl" data-calls>
      <p>
        <b>{heard.length}</b> calls: <b>{landed}</b> of {wanted} strikes landed, <b>{right}</b> with the limb that was meant
        {slow > 0 && <span className="text-soft">; {slow} not answered</span>}
      </p>
      {middle !== undefined && (
        <p className="numeric mt-1">
          {Math.round(middle)} ms <span className="text-soft">from call to contact, in the middle (±{Math.round(2 * doubt)})</span>
        </p>
      )}
      {take.rush && take.rush.strikes > 0 && (
        <p className="numeric mt-1">
          Last ten seconds: <b>{take.rush.strikes}</b>
          {take.rush.rate_hz !== null && `, ${take.rush.rate_hz.toFixed(1)} a second`}
          {take.rush.force_kept_pct !== null && `, ${Math.round(take.rush.force_kept_pct)} % of the force kept`}
        </p>
      )}
    </div>
  );
}
