// What is copied out of a page.
import { desk } from "./desk.svelte";

/**
 * Puts text on the clipboard; false where the browser lets nobody, which is then told. A page that comes from another machine without encryption is given no
 * clipboard: there a field with the text in it is copied as a hand would.
 */
export async function copied(text: string): Promise<boolean> {
  const written = await navigator.clipboard?.writeText(text).then(
    () => true,
    () => false,
  );
  const done = written || byHand(text);
  if (!done) desk.trouble = "The browser lets nothing be copied from this page. Mark what you want and copy it with your own keys.";
  return done;
}

function byHand(text: string): boolean {
  const had = document.activeElement;
  const field = document.createElement("textarea");
  field.value = text;
  field.style.cssText = "position: fixed; opacity: 0";
  document.body.append(field);
  field.select();
  const done = document.execCommand("copy");
  field.remove();
  if (had instanceof HTMLElement) had.focus();
  return done;
}
