// How far something long has come: shown where it takes long enough to be read.
import { useProgress } from "./changeSet";

export function HowFar({ underWay, what }: { underWay: boolean; what: string }) {
  const progress = useProgress(underWay).data;
  if (!underWay || !progress?.total) return null;
  const share = Math.round((100 * progress.done) / progress.total);
  return (
    <p role="status" className="mt-3 flex items-center gap-2 text-sm text-ink2">
      <progress value={share} max={100} aria-label={what} className="h-2 flex-1 accent-brass" />
      {what}, {share} of 100 done
    </p>
  );
}
