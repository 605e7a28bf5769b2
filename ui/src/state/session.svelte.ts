// Who has signed in, where people do; nobody does on one's own computer.
import { answer, api, entrance, Problem, type Myself } from "../api/client";

class Session {
  me = $state<Myself>();
  /** Why the entrance is shut while somebody is at work. */
  why = $state("");

  constructor() {
    entrance.shut = (why) => {
      if (this.me?.name) this.why = why;
    };
  }

  get signsIn(): boolean {
    return this.me?.signs_in ?? false;
  }
  may(right: string): boolean {
    return !this.me || this.me.rights.includes(right);
  }

  async read() {
    this.me = await answer(api.GET("/api/session"));
  }
  /** The sentence of a refusal, or nothing. */
  async signIn(name: string, password: string): Promise<string> {
    try {
      this.me = await answer(api.POST("/api/session", { body: { name, password } }));
      this.why = "";
      return "";
    } catch (error) {
      if (error instanceof Problem) return error.message;
      throw error;
    }
  }
  async signOut(everywhere = false) {
    await answer(everywhere ? api.POST("/api/session/everywhere") : api.DELETE("/api/session"));
    location.assign("/");
  }
}

export const session = new Session();
