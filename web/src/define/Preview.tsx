// Whom some answers would touch, and what they would turn: counted by the server.
import { useImpact, useTouched } from "../shared/changes/changeSet";
import {
  type Total,
  touchedWords,
  touchesNobody,
  turningWords,
  wholeAndParts,
} from "../shared/changes/turning";
import { count } from "../shared/time";
import type { Answers } from "./patterns";
import { usePreview } from "./useBoard";

const MOST_TOLD = 3;

/** Of answers by themselves, before they are staged or among other changes. */
export function Preview({ role, answers }: { role: string; answers: Answers }) {
  const { touched, turning, error } = usePreview(role, answers);
  if (error) return <span>Whom it touches could not be counted: {error.message}</span>;
  if (!touched) return <span>Counting whom it touches…</span>;
  if (touchesNobody(touched)) return <span>{NOTHING}</span>;
  if (!turning) return <span className="figures">{touchedWords(touched)}; working out what and where…</span>;
  return <span className="figures">{toldOf(turning.turns).join("; ")}.</span>;
}

/** Of all that is staged: asked for once the tray has told whom it touches. What the baseline turns was told before. */
export function StagedTurns() {
  const touched = useTouched();
  const impact = useImpact(touched.data !== undefined && !touched.isFetching);
  if (impact.error) return <span>What it turns could not be worked out: {impact.error.message}</span>;
  if (!impact.data || impact.isPlaceholderData) return <span>Working out what it turns, and where…</span>;
  const told = toldOf(impact.data.turns);
  return <span className="figures">{told.length > 0 ? `${told.join("; ")}.` : NOTHING}</span>;
}

const NOTHING = "Nothing turns for anybody.";

/** What turns, in a few words each: of whole pages and plain duties if it is about any. */
function toldOf(turns: Total[]): string[] {
  const [whole, parts] = wholeAndParts(turns);
  const told = (whole.length > 0 ? whole : parts).slice(0, MOST_TOLD).map(turningWords);
  const [fewer, left] = whole.length > 0 ? [whole, parts.length] : [parts, 0];
  if (fewer.length > MOST_TOLD) told.push(`${fewer.length - MOST_TOLD} more`);
  if (left > 0) told.push(count(left, "field or component", "fields and components"));
  return told;
}
