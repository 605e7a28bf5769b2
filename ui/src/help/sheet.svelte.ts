// The sheet of help: whether it is open, what on the screen it points at, and the working whose formulas it shows.
import { place } from "../state/place.svelte";
import type { Working } from "../api/client";

export type Ring = { left: number; top: number; width: number; height: number; text: string };

class Sheet {
  open = $state(false);
  ring = $state<Ring>();
  /** The working that is on the screen. */
  working = $state.raw<Working>();
  /** Whether the sheet was opened for its formulas. */
  formulas = $state(false);

  /** Rings a part of the screen, and brings it into sight. */
  point(part: Element, text: string) {
    part.scrollIntoView({ block: "nearest" });
    const r = part.getBoundingClientRect();
    const left = Math.max(2, r.left - 3);
    const top = Math.max(2, r.top - 3);
    this.ring = {
      left,
      top,
      width: Math.min(r.width + 6, innerWidth - 4 - left),
      height: Math.min(r.height + 6, innerHeight - 4 - top),
      text,
    };
  }

  /** Waits for a part that is on its way to the screen until it stands still, and rings it; nothing where it does not come. Somebody who goes on meanwhile is not called back. */
  async await(find: () => Element | null | undefined, text: string): Promise<Element | "gone on" | undefined> {
    const here = location.pathname;
    const goesOn = new AbortController();
    const watched = { capture: true, signal: goesOn.signal };
    addEventListener("keydown", (e) => e.repeat || goesOn.abort(), watched);
    addEventListener("pointerdown", () => goesOn.abort(), watched);
    let stood = "";
    for (let tries = 0; tries < 50; tries++) {
      await new Promise((resolve) => setTimeout(resolve, 120));
      if (goesOn.signal.aborted) return "gone on";
      if (location.pathname !== here) break;
      const part = find();
      const r = part?.getBoundingClientRect();
      const stands = r ? `${place.station} ${place.page} ${r.left} ${r.top} ${r.width}` : "";
      if (part && stands === stood) {
        goesOn.abort();
        this.point(part, text);
        return part;
      }
      stood = stands;
    }
    goesOn.abort();
    return undefined;
  }
}

export const sheet = new Sheet();
