import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type Announcements,
} from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { GripVertical } from 'lucide-react';
import { createContext, use, type CSSProperties, type KeyboardEvent, type ReactNode } from 'react';

type Id = string | number;

interface Order {
  ids: readonly Id[];
  nameOf: (id: Id) => string;
  move: (from: number, to: number) => void;
}
const OrderContext = createContext<Order | null>(null);

/**
 * What stands in an order that can be changed: by dragging a handle with mouse or finger, by its arrow keys, or by Space,
 * arrow keys and Space. Each change is said to who cannot see it.
 */
export function Sortable<T extends Id>({
  ids,
  nameOf,
  onOrder,
  children,
}: {
  ids: readonly T[];
  nameOf: (id: T) => string;
  onOrder: (ids: T[]) => void;
  children: ReactNode;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const name = (id: Id): string => nameOf(id as T);
  const place = (id: Id): number => ids.indexOf(id as T);
  const move = (from: number, to: number): void => {
    if (from !== to && from >= 0 && to >= 0 && to < ids.length) onOrder(arrayMove([...ids], from, to));
  };
  const announcements: Announcements = {
    onDragStart: ({ active }) => `${name(active.id)} is picked up, at place ${place(active.id) + 1}.`,
    onDragOver: ({ active, over }) =>
      over ? `${name(active.id)} would be at place ${place(over.id) + 1} of ${ids.length}.` : undefined,
    onDragEnd: ({ active, over }) =>
      over ? `${name(active.id)} is now at place ${place(over.id) + 1}.` : `${name(active.id)} is put back.`,
    onDragCancel: ({ active }) => `${name(active.id)} is put back.`,
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      accessibility={{
        announcements,
        screenReaderInstructions: {
          draggable:
            'Press an arrow key to move it by one place. Or press Space, the arrow keys and Space again; Escape puts it back.',
        },
      }}
      onDragEnd={({ active, over }) => {
        if (over) move(place(active.id), place(over.id));
      }}
    >
      <SortableContext items={[...ids]} strategy={verticalListSortingStrategy}>
        <OrderContext value={{ ids, nameOf: name, move }}>{children}</OrderContext>
      </SortableContext>
    </DndContext>
  );
}

/** Makes an element one of those in order: its ref and style, and the handle by which it is moved. */
export function useInOrder(id: Id): {
  ref: (element: HTMLElement | null) => void;
  style: CSSProperties;
  handle: ReactNode;
} {
  const order = use(OrderContext);
  const { setNodeRef, setActivatorNodeRef, attributes, listeners, transform, transition, isDragging } =
    useSortable({ id });
  const at = order ? order.ids.indexOf(id) : -1;
  const press = (event: KeyboardEvent<HTMLButtonElement>): void => {
    const step = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
    if (!order || isDragging || step === 0) {
      (listeners?.onKeyDown as ((event: KeyboardEvent) => void) | undefined)?.(event);
      return;
    }
    event.preventDefault();
    order.move(at, at + step);
  };
  return {
    ref: setNodeRef,
    style: {
      transform: CSS.Translate.toString(transform),
      transition,
      ...(isDragging ? { zIndex: 10, position: 'relative', opacity: 0.85 } : {}),
    },
    handle: (
      <button
        type="button"
        ref={setActivatorNodeRef}
        {...attributes}
        {...listeners}
        aria-label={`Move ${order?.nameOf(id) ?? ''}, place ${at + 1} of ${order?.ids.length ?? 0}`}
        className="btn btn-ghost btn-sm btn-square cursor-grab touch-none"
        onKeyDown={press}
      >
        <GripVertical size={18} aria-hidden />
      </button>
    ),
  };
}
