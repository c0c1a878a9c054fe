/** How far something has come. */
export function Bar({ share, label }: { share: number; label: string }) {
  return (
    <div role="progressbar" aria-label={label} aria-valuemin={0} aria-valuemax={100} aria-valuenow={Math.round(100 * share)} className="mt-2 h-2 overflow-hidden rounded bg-shade">
      <div className="h-full bg-oar transition-[width]" style={{ width: `${100 * share}%` }} />
    </div>
  );
}
