import { answer } from "@/server/guard/answer";

export const POST = answer("survey/since");
