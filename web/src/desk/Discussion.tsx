// What has been said under a page; those who moderate there approve or reject what is held.
import { useLooksOnly } from "../shared/session";
import { day } from "../shared/time";
import { Button, ErrorNotice } from "../shared/ui";
import { useModerate, usePosts } from "./useDesk";

export function Discussion({ node }: { node: string }) {
  const posts = usePosts(node).data ?? [];
  const moderate = useModerate(node);
  const looks = useLooksOnly();
  if (posts.length === 0) return null;
  return (
    <section className="mt-5 border-t border-line px-[18px] pt-3" aria-label="Discussion">
      <h2 className="mb-1">Discussion</h2>
      <ErrorNotice error={moderate.error} />
      <ul>
        {posts.map((post) => (
          <li key={post.id} className="border-b border-linen2 py-2 text-read" data-state={post.state}>
            <p>{post.text}</p>
            <p className="text-xs text-ink2">
              {post.author}, {day(post.at)}
              {post.state !== "approved" && ` · ${post.state}`}
            </p>
            {post.may_moderate && post.state === "held" && (
              <div className="mt-1 flex gap-1.5">
                <Button
                  disabled={looks || moderate.isPending}
                  onClick={() => moderate.mutate({ post: post.id, state: "approved" })}
                >
                  Approve
                </Button>
                <Button
                  look="quiet"
                  disabled={looks || moderate.isPending}
                  onClick={() => moderate.mutate({ post: post.id, state: "rejected" })}
                >
                  Reject
                </Button>
              </div>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
