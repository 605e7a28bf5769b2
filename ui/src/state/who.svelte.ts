// Who is working: asked once, at the first change that goes into the record, and changeable in the bar.
import { analyst } from "../api/client";
import { session } from "./session.svelte";

const asked = "yugen-analyst-asked"; // in this window's session, put away without an answer

class Who {
  name = $state(analyst.name);
  open = $state(false);
  private waiting: (() => void)[] = [];

  /** Comes back once somebody is known, or has not wanted to say. */
  sure(): Promise<void> {
    if (session.signsIn || this.name || sessionStorage.getItem(asked)) return Promise.resolve();
    this.open = true;
    return new Promise((go) => this.waiting.push(go));
  }

  is(name: string) {
    analyst.name = name.trim();
    this.name = analyst.name;
    this.close();
  }

  /** The question is put away: what is done bears the name that the installation has. */
  close() {
    this.open = false;
    sessionStorage.setItem(asked, "yes");
    for (const go of this.waiting.splice(0)) go();
  }
}

export const who = new Who();
