import { look } from "@/server/guard/answer";
import { mediaOf } from "@/server/looks/forms/media";

export const GET = look(mediaOf);
