// Whom some answers would touch, and what they would change: counted by the server.
import { useImpact, useTouched } from "../shared/changes/changeSet";
import {
  bothWords,
  changeWords,
  isTold,
  type Total,
  touchedWords,
  touchesNobody,
  wholeAndParts,
} from "../shared/changes/impactText";
import { count } from "../shared/time";
import type { Answers } from "./patterns";
import { usePreview } from "./useBoard";

const MOST = 3;

/** Of answers by themselves, before they are staged or among other changes. */
export function Preview({ role, answers }: { role: string; answers: Answers }) {
  const { touched, turning, error } = usePreview(role, answers);
  if (error) return <span>Whom it touches could not be counted: {error.message}</span>;
  if (!touched) return <span>Counting whom it touches…</span>;
  if (!isTold(touched)) return <span className="first-letter:uppercase">{bothWords(touched)}.</span>;
  if (touchesNobody(touched)) return <span>{NOTHING}</span>;
  if (!turning) return <span className="figures">{touchedWords(touched)}; working out what and where…</span>;
  return <span className="figures">{textsOf(turning.turns).join("; ")}.</span>;
}

/** Of all that is staged: asked for once the tray has told whom it touches. What the baseline changes was said before. */
export function StagedChanges() {
  const touched = useTouched();
  const impact = useImpact(touched.data !== undefined && !touched.isFetching);
  if (impact.error) return <span>What it changes could not be worked out: {impact.error.message}</span>;
  if (!impact.data || impact.isPlaceholderData) return <span>Working out what it changes, and where…</span>;
  if (!isTold(impact.data)) return <span className="first-letter:uppercase">{bothWords(impact.data)}.</span>;
  const texts = textsOf(impact.data.turns);
  return <span className="figures">{texts.length > 0 ? `${texts.join("; ")}.` : NOTHING}</span>;
}

const NOTHING = "Nothing changes for anybody.";

/** What changes, in a few words each: of whole pages and plain duties if it is about any. */
function textsOf(changes: Total[]): string[] {
  const [whole, parts] = wholeAndParts(changes);
  const texts = (whole.length > 0 ? whole : parts).slice(0, MOST).map(changeWords);
  const [fewer, left] = whole.length > 0 ? [whole, parts.length] : [parts, 0];
  if (fewer.length > MOST) texts.push(`${fewer.length - MOST} more`);
  if (left > 0) texts.push(count(left, "field or component", "fields and components"));
  return texts;
}
