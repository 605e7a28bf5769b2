/** Pages of the installation, besides the shelf; every other first word of an address is a batch. */
export const pages = ["bench", "people", "record", "settings", "api"] as const;
export type Page = "" | (typeof pages)[number];
