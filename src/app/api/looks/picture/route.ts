import { look } from "@/server/guard/answer";
import { pictureOf } from "@/server/looks/forms/picture";

export const GET = look((engine, query, request) => pictureOf(engine, query, request.signal));
