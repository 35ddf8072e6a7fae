/**
 * What a program is for, by the main categories of the Desktop Menu Specification 1.1, and the words for it. The first of a
 * shortcut's categories that is one of these counts.
 */
const activities: Record<string, string> = {
  AudioVideo: "sound and film",
  Audio: "sound and film",
  Video: "sound and film",
  Development: "programming",
  Education: "learning",
  Game: "play",
  Graphics: "pictures",
  Network: "web and mail",
  Office: "office work",
  Science: "science",
  Settings: "settings",
  System: "settings",
  Utility: "small helpers",
};

/** What a desktop entry's Categories value says its program is for; undefined where it does not say. */
export function activityOf(categories: string | undefined): string | undefined {
  const main = categories?.split(";").find((category) => Object.hasOwn(activities, category));
  return main && activities[main];
}
