// A list that is put in order by dragging, or with a handle by keyboard: Space, arrows, Space.
import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { GripVertical } from "lucide-react";
import type { ComponentProps, ReactNode } from "react";

type SortableProps = {
  ids: string[];
  /** What one of them is, in a sentence: "the role". */
  what: string;
  nameOf: (id: string) => string;
  /** One of them was put down at the place of another. */
  onMove: (from: number, to: number) => void;
  children: ReactNode;
};

export function Sortable({ ids, what, nameOf, onMove, children }: SortableProps) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );

  function dropped({ active, over }: DragEndEvent) {
    if (!over || active.id === over.id) return;
    onMove(ids.indexOf(String(active.id)), ids.indexOf(String(over.id)));
  }

  const name = (id: string | number) => nameOf(String(id));
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={dropped}
      accessibility={{
        screenReaderInstructions: {
          draggable: `Press Space to pick ${what} up, arrows to move it, Space again to put it down.`,
        },
        announcements: {
          onDragStart: ({ active }) => `Picked up ${name(active.id)}.`,
          onDragOver: ({ active, over }) =>
            over ? `${name(active.id)} is at the place of ${name(over.id)}.` : undefined,
          onDragEnd: ({ active }) => `Put down ${name(active.id)}.`,
          onDragCancel: ({ active }) => `${name(active.id)} is back where it was.`,
        },
      }}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}

/** One of the list: what goes on its element and on its handle. It moves up and down, never aside. */
export function useSorted(id: string, disabled = false) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id,
    disabled,
  });
  return {
    dragged: isDragging,
    item: {
      ref: setNodeRef,
      style: { transform: transform ? `translateY(${transform.y}px)` : undefined, transition },
    },
    handle: { ...attributes, ...listeners },
  };
}

/** What one of the list is taken by, with `handle` of it. */
export function SortHandle({ name, className, ...handle }: { name: string } & ComponentProps<"button">) {
  return (
    <button
      type="button"
      {...handle}
      aria-label={`Move ${name}`}
      className={`cursor-grab rounded p-0.5 ${className}`}
    >
      <GripVertical size={15} aria-hidden="true" />
    </button>
  );
}
