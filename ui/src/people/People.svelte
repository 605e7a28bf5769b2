<script lang="ts">
  // Who may come in, and what they may do: a plain table of people, one of roles, and tokens for scripts.
  import { createQuery } from "@tanstack/svelte-query";
  import Foot from "../parts/Foot.svelte";
  import PageBar from "../parts/PageBar.svelte";
  import { count, missing } from "../look/number";
  import { ask } from "../state/ask";
  import { keys } from "../state/keys.svelte";
  import { session } from "../state/session.svelte";
  import PeopleSide from "./PeopleSide.svelte";
  import Tokens from "./Tokens.svelte";
  import { people } from "./people.svelte";

  const keeps = $derived(session.may("keep"));
  const query = createQuery(() => ({ ...ask.people(), enabled: keeps }));
  const staff = $derived(query.data);
  const initials = (name: string) =>
    name
      .split(/[\s.]+/)
      .filter(Boolean)
      .map((w) => w[0]!.toUpperCase())
      .slice(0, 2)
      .join("");
  const when = (t: string | null | undefined) =>
    t ? new Date(t).toLocaleString("en-GB", { day: "numeric", month: "long", hour: "2-digit", minute: "2-digit" }) : missing;
  const at = $derived(staff?.people.findIndex((p) => p.id === people.chosen) ?? -1);
  function along(e: KeyboardEvent) {
    if (!staff || !["ArrowDown", "ArrowUp"].includes(e.key) || (e.target as Element).closest("input, select, textarea")) return;
    e.preventDefault();
    people.chosen = staff.people[Math.max(0, Math.min(staff.people.length - 1, at + (e.key === "ArrowDown" ? 1 : -1)))]?.id ?? "";
  }
  $effect(() =>
    keys({
      a: () => {
        people.chosen = "";
        setTimeout(() => document.querySelector<HTMLInputElement>("#new-person")?.focus());
      },
    }),
  );
</script>

<svelte:window onkeydown={along} />
<div class="page">
  <PageBar><span class="note">{staff ? count(staff.people.length, "person", "people") : ""}</span></PageBar>
  <div class="stage">
    <main class="main">
      {#if !keeps}<h1>Yours <span class="note">what acts in your name</span></h1>
        <p class="note">
          {session.me?.name}, {session.me?.roles.join(", ")}. Who else may come in is the keeper’s to see; tokens of your own are made and
          ended here.
        </p>
        <Tokens says={(right) => right} />
      {:else if query.isError}<p class="att" role="alert">{query.error.message}</p>
      {:else if !staff}<p class="note">Reading who may come in …</p>
      {:else}
        <h1>People <span class="note">who may come in, and what they may do</span></h1>
        {#if !session.signsIn}<p class="note">
            Nobody signs in here: one person works, from this computer. Serve with <code>--people</code> once there is a keeper, and people sign
            in.
          </p>{/if}
        <table aria-label="People">
          <thead
            ><tr
              ><th class="l">Name</th><th class="l">In the record</th><th class="l">Role</th><th class="l">Last here</th><th class="l"
                >May come in</th
              ></tr
            ></thead
          >
          <tbody>
            {#each staff.people as p (p.id)}<tr class:on={p.id === people.chosen}>
                <td class="l"><button title="Changes this person" onclick={() => (people.chosen = p.id)}><b>{p.name}</b></button></td>
                <td class="l">{initials(p.name)}</td><td class="l">{p.roles.join(", ")}</td>
                <td class="l">{p.name === session.me?.name ? "now" : when(p.last_here)}</td>
                <td class="l">{p.closed_at ? `closed ${when(p.closed_at)}; the name stays in the record` : "yes"}</td>
              </tr>{:else}<tr><td class="l" colspan="5">Nobody yet. The first keeper is made at the console.</td></tr>{/each}
          </tbody>
        </table>
        <h2>What a role may do <span class="note">a person may have several</span></h2>
        <table aria-label="What a role may do">
          <thead
            ><tr
              ><th></th>{#each staff.roles as r (r)}<th class="c">{r}</th>{/each}</tr
            ></thead
          >
          <tbody>
            {#each staff.table as row (row.right)}<tr
                ><td class="l">{row.says}</td>{#each staff.roles as r (r)}<td class="c">{row.roles.includes(r) ? "yes" : missing}</td
                  >{/each}</tr
              >{/each}
            <tr
              ><td class="l">Alter raw data, a saved version or the record</td>{#each staff.roles as r (r)}<td class="c">{missing}</td
                >{/each}</tr
            >
          </tbody>
        </table>
        <p class="note">The last line is nobody’s, and no setting makes it so. Every change on this page is written to the record.</p>
      {/if}
    </main>
    {#if staff}<PeopleSide {staff} />{/if}
    <Foot
      hints={keeps
        ? [
            ["↑|↓", "person"],
            ["A", "add a person"],
          ]
        : []}>Names are never removed: the record speaks of them</Foot
    >
  </div>
</div>

<style>
  .page {
    display: grid;
    grid-template-rows: 41px minmax(0, 1fr);
    height: 100%;
  }
  .main {
    padding: 8px 16px;
    overflow: auto;
  }
  h1 {
    font: 500 22px/1.5 var(--f-read);
  }
  table + .note {
    margin-top: 6px;
  }
  h2 {
    margin-top: 36px;
  }
  table {
    width: 100%;
  }
  td button {
    min-height: 24px;
  }
  .c {
    text-align: center;
  }
  tr.on td {
    background: var(--row-sel, var(--mist-1));
  }
</style>
