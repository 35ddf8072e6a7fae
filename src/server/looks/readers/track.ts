import type { LookView } from "@/contract/looks";
import { NotShown, type Source } from "./source";
import { elements, readXml, textOf } from "./xml";

const mostTrack = 30_000_000;
const shownPoints = 800;

interface Fix {
  latitude: number;
  longitude: number;
  at?: number;
}

/** A track (GPX 1.1): its way to scale, how long it is, and when. */
export function gpx(source: Source): LookView {
  const content = readXml(source.whole(mostTrack));
  const ways = [...elements(content, /^(trkseg|rte)$/)].map((way) =>
    [...elements(way.children, /^(trkpt|rtept)$/)].map((point): Fix => {
      const [time] = elements(point.children, /^time$/);
      const at = time ? Date.parse(textOf(time)) : Number.NaN;
      return {
        latitude: Number(point.attributes.lat),
        longitude: Number(point.attributes.lon),
        ...(Number.isNaN(at) ? {} : { at }),
      };
    }),
  );
  return drawn(ways);
}

/** Lines and points as GeoJSON (RFC 7946). */
export function geojson(source: Source): LookView {
  let data: unknown;
  try {
    data = JSON.parse(source.whole(mostTrack).toString("utf8"));
  } catch {
    throw new NotShown("it is damaged");
  }
  const ways: Fix[][] = [];
  const isPosition = (value: unknown): value is [number, number] =>
    Array.isArray(value) && typeof value[0] === "number" && typeof value[1] === "number";
  const fix = ([longitude, latitude]: [number, number]): Fix => ({ latitude, longitude });
  const walk = (value: unknown, depth: number): void => {
    if (depth > 12 || typeof value !== "object" || value === null) return;
    if (Array.isArray(value)) {
      if (value.length > 0 && value.every(isPosition)) ways.push(value.map(fix));
      else if (isPosition(value)) ways.push([fix(value)]);
      else for (const one of value) walk(one, depth + 1);
      return;
    }
    const { coordinates, geometry, geometries, features } = value as Record<string, unknown>;
    for (const one of [coordinates, geometry, geometries, features]) walk(one, depth + 1);
  };
  walk(data, 0);
  return drawn(ways);
}

/** Great-circle length on a sphere of the Earth's mean radius (haversine), in metres. */
function metres(a: Fix, b: Fix): number {
  const rad = Math.PI / 180;
  const [dLat, dLon] = [(b.latitude - a.latitude) * rad, (b.longitude - a.longitude) * rad];
  const h = Math.sin(dLat / 2) ** 2 + Math.cos(a.latitude * rad) * Math.cos(b.latitude * rad) * Math.sin(dLon / 2) ** 2;
  return 2 * 6_371_009 * Math.asin(Math.min(1, Math.sqrt(h)));
}

/** Ways on a plane that keeps lengths east and north alike in their middle, fitted into 1000 by 1000. */
function drawn(all: Fix[][]): LookView {
  const isSane = ({ latitude, longitude }: Fix) => Math.abs(latitude) <= 90 && Math.abs(longitude) <= 180;
  const ways = all.map((way) => way.filter(isSane)).filter((way) => way.length > 0);
  const fixes = ways.flat();
  if (fixes.length === 0) throw new NotShown("it holds no way and no point");
  let [south, north, west, east] = [90, -90, 180, -180];
  let [first, last] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const { latitude, longitude, at } of fixes) {
    [south, north] = [Math.min(south, latitude), Math.max(north, latitude)];
    [west, east] = [Math.min(west, longitude), Math.max(east, longitude)];
    if (at !== undefined) [first, last] = [Math.min(first, at), Math.max(last, at)];
  }
  const squeeze = Math.cos((((south + north) / 2) * Math.PI) / 180);
  const span = Math.max((east - west) * squeeze, north - south, 1e-6);
  const every = Math.max(1, Math.ceil(fixes.length / shownPoints));
  const round = (n: number) => Math.round(n * 10) / 10;
  return {
    form: "track",
    ways: ways
      .slice(0, 200)
      .map((way) =>
        way
          .filter((_, n) => n % every === 0 || n === way.length - 1)
          .map(({ latitude, longitude }): [number, number] => [
            round((((longitude - west) * squeeze) / span) * 1000),
            round(((north - latitude) / span) * 1000),
          ]),
      ),
    points: fixes.length,
    metres: ways.reduce((sum, way) => sum + way.slice(1).reduce((length, fix, n) => length + metres(way[n]!, fix), 0), 0),
    from: Number.isFinite(first) ? first : undefined,
    to: Number.isFinite(last) ? last : undefined,
    width: metres(
      { latitude: (south + north) / 2, longitude: west },
      { latitude: (south + north) / 2, longitude: west + span / squeeze },
    ),
  };
}
