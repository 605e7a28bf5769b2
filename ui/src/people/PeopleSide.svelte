<script lang="ts">
  // One person to be changed, or a new one; and tokens for scripts.
  import type { Staff } from "../api/client";
  import Side from "../parts/Side.svelte";
  import Tokens from "./Tokens.svelte";
  import { people, type Role } from "./people.svelte";

  let { staff }: { staff: Staff } = $props();
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
  <Tokens says={(right) => staff.table.find((row) => row.right === right)?.says ?? ""} />
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
</style>
