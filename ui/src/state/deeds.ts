// What can be done at every station and page, by name: where it is, and the words on what is pressed there. What acts on a thing that one has not seen
// is only pointed at, and takes the focus. A test goes to each place and looks for it.
import type { Page } from "./pages";
import type { Station } from "./place.svelte";

export type Where = Station | "shelf" | Exclude<Page, "">;
export type Deed = readonly [name: string, where: Where, face: string, press: string, act?: "point"];

// prettier-ignore
export const deeds: readonly Deed[] = [
  ["Start a new batch", "shelf", "", "Start", "point"],
  ["Begin from a table of readings", "shelf", "", "From a table", "point"],
  ["Back everything up", "shelf", "", "Back everything up", "point"],
  ["Check everything", "shelf", "", "Check everything", "point"],
  ["Write a list for an instrument", "bench", "", "Fill in an example", "point"],
  ["Add a person", "people", "", "Add", "point"],
  ["Bring files in", "batch", "", "Drop files here, or choose them", "point"],
  ["Fill down in the run list", "batch", "", "Fill down", "point"],
  ["Fill a series in the run list", "batch", "", "Fill series", "point"],
  ["Join a file of another detector", "batch", "", "join a file of another detector", "point"],
  ["Remove an injection from the batch", "batch", "", "Remove from the batch", "point"],
  ["Compare the old and the new state", "batch", "", "old and new"],
  ["One trace", "traces", "", "one"],
  ["Traces offset, one above the other", "traces", "", "offset"],
  ["Lay traces over one another", "traces", "", "overlay"],
  ["Mirror two traces", "traces", "", "mirror"],
  ["The whole batch from above", "traces", "", "from above"],
  ["The whole run of a trace", "traces", "", "whole run"],
  ["Keep this way of looking", "traces", "", "Keep", "point"],
  ["Traces as SVG", "traces", "", "SVG"],
  ["Traces as PNG", "traces", "", "PNG"],
  ["Estimate width and noise from the batch", "peaks", "", "Estimate from the batch", "point"],
  ["More settings of integration", "peaks", "", "More settings"],
  ["Suggest settings from examples", "peaks", "", "Suggest from examples"],
  ["Part peaks by a drop", "peaks", "", "drop", "point"],
  ["Part peaks by the valley", "peaks", "", "valley", "point"],
  ["Part peaks by a tangent", "peaks", "", "tangent", "point"],
  ["Part peaks by a decay", "peaks", "", "decay", "point"],
  ["Part peaks by a fit", "peaks", "", "fit", "point"],
  ["Split the peak", "peaks", "", "split", "point"],
  ["Merge with the left peak", "peaks", "", "merge left", "point"],
  ["Remove the peak", "peaks", "", "remove", "point"],
  ["All measures of the peak", "peaks", "", "All measures"],
  ["Add a time rule", "peaks", "", "Add for what is shown", "point"],
  ["Add many compounds", "compounds", "", "Add many"],
  ["Make it a target", "compounds", "", "target", "point"],
  ["Make it the internal standard", "compounds", "", "int. std", "point"],
  ["Straight and logarithmic axes of the curve", "curves", "", "log"],
  ["Limits of a curve", "curves", "", "limits"],
  ["Response factors", "curves", "", "factors"],
  ["Use curves of an earlier batch", "curves", "", "Use curves of an earlier batch", "point"],
  ["More ways to quantify", "curves", "", "More ways"],
  ["Samples by compounds", "results", "matrix", "matrix"],
  ["Each replicate by itself", "results", "matrix", "each replicate"],
  ["A summary of measures", "results", "summary", "summary"],
  ["Copy the summary", "results", "summary", "Copy"],
  ["Any quantity of any peak", "results", "any", "any quantity"],
  ["Trends along the run or over batches", "results", "trends", "trends"],
  ["A field of one's own", "results", "fields", "New field"],
  ["Checks and what they read", "results", "checks", "checks"],
  ["What has changed since an earlier version", "results", "changed", "changed"],
  ["Process once more, with the newest version or the same", "results", "changed", "Process once more", "point"],
  ["Amounts: what was weighed and diluted", "results", "amounts", "amounts"],
  ["Paste a table of amounts", "results", "amounts", "Paste a table"],
  ["Copy the working as text", "results", "matrix", "copy as text"],
  ["See all that was changed by hand", "review", "", "See all"],
  ["Accept a change", "review", "", "Accept", "point"],
  ["Send a change back", "review", "", "Send back", "point"],
  ["Sign", "review", "", "Sign", "point"],
  ["Approve the version of the method", "review", "", "Approve", "point"],
  ["The page as it is printed", "report", "", "page"],
  ["Design a layout", "report", "", "layout"],
  ["Make many reports", "report", "", "many"],
  ["A report of one injection", "report", "", "one injection"],
  ["Keep this report", "report", "", "Keep this one", "point"],
];

/** What the words on it, or its name, begin with; of several the first. */
export function pressable(words: string): HTMLElement | undefined {
  const of = (el: HTMLElement) => {
    const copy = el.cloneNode(true) as HTMLElement;
    for (const key of copy.querySelectorAll("kbd, sup")) key.remove();
    return (el.getAttribute("aria-label") ?? copy.textContent).replace(/\s+/g, " ").trim();
  };
  const all = [
    ...document.querySelectorAll<HTMLElement>("main button, main .choice-item, .stage button, .stage .choice-item, aside button"),
  ];
  const free = all.filter((el) => !(el as HTMLButtonElement).disabled && !el.closest("td, th, .ntc"));
  return free.find((el) => of(el) === words) ?? free.find((el) => of(el).startsWith(words));
}
