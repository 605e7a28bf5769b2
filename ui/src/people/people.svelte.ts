// People and tokens, as a keeper changes them.
import { answer, api, Problem, type ShownToken } from "../api/client";
import { queries } from "../state/ask";

class People {
  chosen = $state("");
  trouble = $state("");
  done = $state("");
  /** A token that was just made: its text is shown this once. */
  fresh = $state<ShownToken>();

  private async act(what: () => Promise<unknown>, done: string): Promise<boolean> {
    this.trouble = "";
    this.done = "";
    try {
      await what();
      this.done = done;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      this.trouble = error.message;
    }
    await queries.invalidateQueries({ queryKey: ["people"] });
    await queries.invalidateQueries({ queryKey: ["tokens"] });
    return this.trouble === "";
  }
  add(name: string, roles: Role[], password: string) {
    return this.act(() => answer(api.POST("/api/people", { body: { name, roles, password } })), `${name} may come in.`);
  }
  change(person: string, body: { roles?: Role[]; password?: string; closed?: boolean }, done: string) {
    return this.act(() => answer(api.PATCH("/api/people/{person}", { params: { path: { person } }, body })), done);
  }
  token(name: string, rights: string[], days: number) {
    return this.act(async () => {
      this.fresh = await answer(api.POST("/api/tokens", { body: { name, rights, days } }));
    }, "");
  }
  endToken(token: string) {
    return this.act(() => answer(api.DELETE("/api/tokens/{token}", { params: { path: { token } } })), "It has ended.");
  }
}
export type Role = "reader" | "analyst" | "method developer" | "reviewer" | "keeper";

export const people = new People();
