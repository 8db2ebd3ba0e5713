// Whom some answers would touch: counted by the server, before they are staged.
import { count } from "../app/time";
import { touchesNobody, turningWords, wholeAndParts } from "../app/turning";
import type { Saying } from "./patterns";
import { usePreview } from "./useBoard";

const MOST_TOLD = 3;

export function Preview({ role, saying }: { role: string; saying: Saying }) {
  const { data, error } = usePreview(role, saying);
  if (error) return <span>Whom it touches could not be counted: {error.message}</span>;
  if (!data) return <span>Counting whom it touches…</span>;
  if (touchesNobody(data)) return <span>Nothing turns for anybody.</span>;
  const [whole, parts] = wholeAndParts(data.turns);
  const told = (whole.length > 0 ? whole : parts).slice(0, MOST_TOLD).map(turningWords);
  const [fewer, left] = whole.length > 0 ? [whole, parts.length] : [parts, 0];
  if (fewer.length > MOST_TOLD) told.push(`${fewer.length - MOST_TOLD} more`);
  if (left > 0) told.push(count(left, "field or component", "fields and components"));
  return <span className="figures">{told.join("; ")}.</span>;
}
