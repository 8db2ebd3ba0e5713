// What a page is about: its topics, taken off and put on by whoever may edit it.
import { Picker } from "../shared/Picker";
import { useLooksOnly } from "../shared/session";
import { useTopics } from "../shared/useAccounts";
import type { Page } from "./useDesk";

export function Topics({ page, onChange }: { page: Page; onChange: (topics: string[]) => void }) {
  const topics = useTopics().data ?? [];
  const looks = useLooksOnly();
  const may = page.may.includes("edit") && !looks;
  const names = new Map(topics.map(({ key, name }) => [key, name]));
  const others = topics.filter(({ key }) => !page.topics.includes(key));
  if (page.topics.length === 0 && !may) return null;
  return (
    <div className="mt-4 px-[18px]">
      <h2 className="mb-1">Topics</h2>
      <ul aria-label="Topics" className="flex flex-wrap gap-1.5">
        {page.topics.map((key) => (
          <li
            key={key}
            className="flex items-center rounded-full border border-line bg-white px-2.5 text-note"
          >
            {names.get(key) ?? key}
            {may && (
              <button
                type="button"
                aria-label={`Not about ${names.get(key) ?? key}`}
                className="-mr-1.5 ml-0.5 min-h-6 min-w-6 rounded-full hover:bg-linen2"
                onClick={() => onChange(page.topics.filter((one) => one !== key))}
              >
                ×
              </button>
            )}
          </li>
        ))}
        {may && others.length > 0 && (
          <li>
            <Picker
              what="topic"
              choices={others}
              onPick={(key) => onChange([...page.topics, key].sort())}
              trigger={
                <button
                  type="button"
                  className="min-h-6 rounded-full border border-dashed border-line2 px-2.5 text-note text-ink2 hover:border-rod"
                >
                  + topic
                </button>
              }
            />
          </li>
        )}
      </ul>
    </div>
  );
}
