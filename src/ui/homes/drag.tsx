"use client";
import {
  DndContext,
  type DragEndEvent,
  DragOverlay,
  type DragStartEvent,
  PointerSensor,
  pointerWithin,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { type ReactNode, useState } from "react";
import type { Tile } from "@/contract/views";
import { Glyph } from "../plan/glyph";

/** So far the pointer goes before a press is a drag, in pixels. */
const least = 6;

/** Lets things be dragged to homes. By keyboard the same is done with P, which types a home. */
export function Dragging({ onDrop, children }: { onDrop: (item: string, home: string) => void; children: ReactNode }) {
  const [dragged, setDragged] = useState<Tile>();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: least } }));
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      onDragStart={({ active }: DragStartEvent) => setDragged(active.data.current as Tile)}
      onDragCancel={() => setDragged(undefined)}
      onDragEnd={({ active, over }: DragEndEvent) => {
        setDragged(undefined);
        if (over) onDrop(String(active.id), String(over.id));
      }}
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <span className="flex h-10 w-fit max-w-60 items-center gap-2 border border-verdigris bg-sheet px-2 text-small">
            <Glyph kind={dragged.kind} width={20} />
            <bdi className="truncate">{dragged.name}</bdi>
          </span>
        )}
      </DragOverlay>
    </DndContext>
  );
}

/** A thing that can be dragged to a home. */
export function Draggable({ tile, children }: { tile: Tile; children: ReactNode }) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: tile.id, data: tile });
  return (
    <div ref={setNodeRef} {...listeners} className={isDragging ? "opacity-45" : ""}>
      {children}
    </div>
  );
}

/** A home that things can be dropped on. */
export function Landing({ home, children }: { home: string; children: (over: boolean) => ReactNode }) {
  const { setNodeRef, isOver } = useDroppable({ id: home });
  return <div ref={setNodeRef}>{children(isOver)}</div>;
}
