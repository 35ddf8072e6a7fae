/** Something to be sent, with its bytes. */
export interface Load {
  id: string;
  bytes: number;
}

/** A depot and what is free in it; undefined where it does not say. */
export interface Room {
  id: string;
  free?: number;
}

export interface Fitted {
  /** Which goes where. */
  where: Map<string, string>;
  /** What has no room, as the others lie then. */
  without: string[];
}

/** So many loads and depots are tried in every way; more are placed largest first. */
const mostExact = { loads: 10, ways: 2_000_000 };

/**
 * Fits loads into what is free: as many bytes as there can be, then as many loads; each whole. Every way is tried where they are
 * few; else first-fit decreasing (Johnson 1973), each into the fullest depot that still takes it.
 */
export function fitLoads(loads: readonly Load[], rooms: readonly Room[]): Fitted {
  const byBytes = [...loads].sort((a, b) => b.bytes - a.bytes);
  const few = loads.length <= mostExact.loads && (rooms.length + 1) ** loads.length <= mostExact.ways;
  return few ? exactly(byBytes, rooms) : decreasing(byBytes, rooms);
}

const freeIn = ({ free }: Room) => free ?? Number.POSITIVE_INFINITY;

function exactly(loads: Load[], rooms: readonly Room[]): Fitted {
  const free = rooms.map(freeIn);
  const chosen: number[] = [];
  let best: { bytes: number; count: number; chosen: number[] } = { bytes: -1, count: 0, chosen: [] };
  const rest: number[] = [];
  for (let n = loads.length - 1, sum = 0; n >= 0; n--) rest[n] = sum += loads[n]!.bytes;
  const place = (n: number, bytes: number, count: number): void => {
    if (n === loads.length) {
      if (bytes > best.bytes || (bytes === best.bytes && count > best.count)) best = { bytes, count, chosen: [...chosen] };
      return;
    }
    if (bytes + rest[n]! < best.bytes) return;
    const load = loads[n]!;
    // Two depots with as much room are one and the same here.
    const tried = new Set<number>();
    for (const [at, room] of free.entries()) {
      if (load.bytes > room || tried.has(room)) continue;
      tried.add(room);
      free[at] = room - load.bytes;
      chosen[n] = at;
      place(n + 1, bytes + load.bytes, count + 1);
      free[at] = room;
    }
    chosen[n] = -1;
    place(n + 1, bytes, count);
  };
  place(0, 0, 0);
  return asFitted(loads, rooms, best.chosen);
}

function decreasing(loads: Load[], rooms: readonly Room[]): Fitted {
  const free = rooms.map(freeIn);
  const chosen = loads.map(({ bytes }) => {
    let at = -1;
    for (const [n, room] of free.entries()) if (bytes <= room && (at < 0 || room < free[at]!)) at = n;
    if (at >= 0) free[at]! -= bytes;
    return at;
  });
  return asFitted(loads, rooms, chosen);
}

function asFitted(loads: Load[], rooms: readonly Room[], chosen: number[]): Fitted {
  const fitted: Fitted = { where: new Map(), without: [] };
  for (const [n, { id }] of loads.entries()) {
    const room = rooms[chosen[n] ?? -1];
    if (room) fitted.where.set(id, room.id);
    else fitted.without.push(id);
  }
  return fitted;
}

/**
 * Cuts a load between its things, so that each part has room somewhere; a thing that has none is left over. The parts in the
 * order of the depots.
 */
export function cut(
  things: readonly Load[],
  rooms: readonly Room[],
): { parts: { depot: string; things: string[] }[]; over: string[] } {
  const { where, without } = decreasingFit(things, rooms);
  const parts = rooms.flatMap(({ id }) => {
    const here = things.flatMap((thing) => (where.get(thing.id) === id ? [thing.id] : []));
    return here.length > 0 ? [{ depot: id, things: here }] : [];
  });
  return { parts, over: without };
}

/** Into the first depot for as long as there is room in it: fewer parts count more here than full ones. */
function decreasingFit(things: readonly Load[], rooms: readonly Room[]): Fitted {
  const free = rooms.map(freeIn);
  const byBytes = [...things].sort((a, b) => b.bytes - a.bytes);
  const chosen = byBytes.map(({ bytes }) => {
    const at = free.findIndex((room) => bytes <= room);
    if (at >= 0) free[at]! -= bytes;
    return at;
  });
  return asFitted(byBytes, rooms, chosen);
}
