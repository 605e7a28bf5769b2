// Asks for a reason, once at a time, and remembers the last ones.
const memory = "yugen-reasons";

/** The last reasons given in a batch. */
const remembered = (batch: string): string[] => JSON.parse(localStorage.getItem(`${memory}-${batch}`) ?? "[]");

class Reason {
  open = $state(false);
  title = $state("");
  detail = $state("");
  recent = $state<string[]>([]);
  /** Whether there must be one: where the batch has been reported, or what is asked for says so. */
  needed = $state(false);
  /** Tells of which batch the question is, and whether that has been reported. */
  of: () => { batch: string; reported: boolean } = () => ({ batch: "", reported: false });
  private resolve: (reason: string | null) => void = () => {};

  /** Opens the question. The answer is null when it was put away; without a reason that is not needed, it is the title. */
  ask(title: string, detail = "", needed = false): Promise<string | null> {
    const { batch, reported } = this.of();
    this.needed = needed || reported;
    this.recent = remembered(batch);
    this.title = title;
    this.detail = detail;
    this.open = true;
    return new Promise((resolve) => (this.resolve = resolve));
  }

  answer(reason: string | null) {
    this.open = false;
    if (reason) {
      this.recent = [reason, ...this.recent.filter((r) => r !== reason)].slice(0, 6);
      localStorage.setItem(`${memory}-${this.of().batch}`, JSON.stringify(this.recent));
    }
    this.resolve(reason === "" ? this.title : reason);
  }
}

export const reason = new Reason();
