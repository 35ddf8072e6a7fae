import { look } from "@/server/guard/answer";
import { pictureOf } from "@/server/survey/look";

export const GET = look((engine, query) => pictureOf(engine, query));
