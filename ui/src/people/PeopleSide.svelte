<script lang="ts">
  // One person to be changed, or a new one; and tokens for scripts.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Staff } from "../api/client";
  import Side from "../parts/Side.svelte";
  import { ask } from "../state/ask";
  import { session } from "../state/session.svelte";
  import { people, type Role } from "./people.svelte";

  let { staff }: { staff: Staff } = $props();
  const tokens = createQuery(() => ask.tokens());
  const person = $derived(staff.people.find((p) => p.id === people.chosen));
  let name = $state("");
  let password = $state("");
  let roles = $state<Role[]>(["analyst"]);
  $effect(() => {
    roles = person ? [...person.roles] : ["analyst"];
    password = "";
  });
  async function add(e: SubmitEvent) {
    e.preventDefault();
    if (await people.add(name.trim(), roles, password)) {
      name = "";
      password = "";
    }
  }
  async function change(e: SubmitEvent) {
    e.preventDefault();
    if (person)
      await people.change(
        person.id,
        { roles, ...(password ? { password } : {}) },
        `${person.name} is ${roles.join(", ")}${password ? ", with another password" : ""}.`,
      );
    password = "";
  }
  let script = $state("");
  let rights = $state<string[]>(["look"]);
  let days = $state(90);
  async function make(e: SubmitEvent) {
    e.preventDefault();
    if (await people.token(script, rights, days)) script = "";
  }
  const day = (t: string | null | undefined) =>
    t ? new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" }) : "never";
</script>

{#snippet which()}
  <fieldset>
    <legend>Roles</legend>
    {#each staff.roles as r (r)}<label class="chk"><input type="checkbox" value={r} bind:group={roles} title="Is {r}" />{r}</label>{/each}
  </fieldset>
{/snippet}

<Side>
  <section aria-label={person ? "This person" : "A new person"}>
    <h2>{person ? person.name : "A new person"}</h2>
    {#if person}
      <form onsubmit={change}>
        {@render which()}
        <label for="new-password">Another password <span class="note">empty leaves it</span></label>
        <input
          id="new-password"
          class="field"
          type="password"
          autocomplete="new-password"
          bind:value={password}
          title="At least 12 signs"
        />
        <p class="acts">
          <button class="btn pri" title="Every session of this person ends">Keep</button>
          <button
            type="button"
            class="lnk"
            title={person.closed_at ? "They may come in again" : "They may not come in any more; the name stays in the record"}
            onclick={() =>
              people.change(
                person.id,
                { closed: !person.closed_at },
                person.closed_at ? `${person.name} may come in again.` : `${person.name} may not come in any more.`,
              )}>{person.closed_at ? "let in again" : "close"}</button
          >
          <button type="button" class="lnk" title="A new person" onclick={() => (people.chosen = "")}>a new person</button>
        </p>
      </form>
    {:else}
      <form onsubmit={add}>
        <label for="new-person">Name in the record</label>
        <input
          id="new-person"
          class="field"
          bind:value={name}
          maxlength="80"
          required
          title="As it stands in the record; never used twice"
        />
        {@render which()}
        <label for="first-password">First password</label>
        <input
          id="first-password"
          class="field"
          type="password"
          autocomplete="new-password"
          bind:value={password}
          required
          title="At least 12 signs; several words make a good one"
        />
        <p class="acts"><button class="btn pri" title="Lets this person in">Add</button></p>
      </form>
    {/if}
    {#if people.trouble}<p class="att" role="alert">{people.trouble}</p>{/if}
    {#if people.done}<p class="note" role="status">{people.done}</p>{/if}
  </section>
  <section aria-label="Tokens for scripts">
    <h2>Tokens for scripts <span class="r">{tokens.data?.length ?? ""}</span></h2>
    {#each tokens.data ?? [] as k (k.id)}<p class="fact">
        <span>{k.name}<span class="note"> {k.person}: {k.rights.join(", ")}</span></span>
        <span class="note"
          >until {day(k.ends_at)}
          <button class="lnk" title="Ends this token; last used: {day(k.last_used)}" onclick={() => people.endToken(k.id)}>end</button
          ></span
        >
      </p>{:else}<p class="note">None. A token acts as its person, with less.</p>{/each}
    {#if people.fresh}<p class="fresh">
        <code>{people.fresh.text}</code><span class="note"
          >Shown this once. It acts as {people.fresh.person}, with less, until {day(people.fresh.ends_at)}.</span
        >
      </p>{/if}
    {#if session.signsIn}
      <form onsubmit={make}>
        <label for="token-name">What for</label>
        <input id="token-name" class="field" bind:value={script} maxlength="80" required title="What the script does" />
        <fieldset>
          <legend>May</legend>
          {#each (session.me?.rights ?? []).filter((r) => r !== "keep") as r (r)}<label class="chk"
              ><input type="checkbox" value={r} bind:group={rights} title={staff.table.find((row) => row.right === r)?.says} />{r}</label
            >{/each}
        </fieldset>
        <p class="acts">
          <label
            >for <input class="field num days" type="number" min="1" max="366" bind:value={days} title="It ends after so many days" /> days</label
          >
          <button class="btn" title="Makes a token of yours">New token</button>
        </p>
      </form>
    {/if}
  </section>
</Side>

<style>
  form {
    display: grid;
    gap: 4px;
    margin-top: 6px;
  }
  label {
    font-size: 12.5px;
  }
  .chk {
    min-height: 26px;
  }
  fieldset {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 14px;
    margin: 6px 0;
  }
  legend {
    font-size: 12.5px;
    color: var(--ink-2);
  }
  .acts {
    display: flex;
    gap: 14px;
    align-items: baseline;
    margin-top: 6px;
  }
  .days {
    width: 56px;
  }
  .fact {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    align-items: baseline;
    border-bottom: 1px solid var(--mist-1);
    font-size: 12.5px;
    min-height: 26px;
  }
  .fact > .note {
    white-space: nowrap;
  }
  .fact .note {
    margin-left: 6px;
  }
  .fresh {
    border: 1px solid var(--mist-3);
    padding: 6px 8px;
    display: grid;
    gap: 4px;
    margin: 8px 0;
    overflow-wrap: anywhere;
  }
</style>
