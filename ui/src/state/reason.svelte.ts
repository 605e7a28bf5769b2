// Asks for a reason, once at a time, and remembers the last ones.
const memory = "yugen-reasons";

class Reason {
  open = $state(false);
  title = $state("");
  detail = $state("");
  recent = $state<string[]>(JSON.parse(localStorage.getItem(memory) ?? "[]"));
  private resolve: (reason: string | null) => void = () => {};

  /** Opens the question. The answer is null when it was put away. */
  ask(title: string, detail = ""): Promise<string | null> {
    this.title = title;
    this.detail = detail;
    this.open = true;
    return new Promise((resolve) => (this.resolve = resolve));
  }

  answer(reason: string | null) {
    this.open = false;
    if (reason) {
      this.recent = [reason, ...this.recent.filter((r) => r !== reason)].slice(0, 6);
      localStorage.setItem(memory, JSON.stringify(this.recent));
    }
    this.resolve(reason);
  }
}

export const reason = new Reason();
