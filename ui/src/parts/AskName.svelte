<script lang="ts">
  import { Dialog, Portal } from "@skeletonlabs/skeleton-svelte";
  import { createQuery } from "@tanstack/svelte-query";
  import { ask } from "../state/ask";
  import { who } from "../state/who.svelte";

  const installation = createQuery(() => ask.installation());
  let text = $state("");
  let field = $state<HTMLInputElement>();
  /** The Enter that made the change must not answer the question, nor one that is held down. */
  const grace = 350;
  let opened = 0;
  $effect(() => {
    if (!who.open) return;
    opened = performance.now();
    text = installation.data?.analyst ?? "";
    queueMicrotask(() => field?.select());
  });
</script>

<Dialog open={who.open} onOpenChange={(d) => !d.open && who.open && who.close()} initialFocusEl={() => field ?? null}>
  <Portal>
    <Dialog.Backdrop class="reason-veil" />
    <Dialog.Positioner class="reason-place">
      <Dialog.Content class="reason-sheet">
        <Dialog.Title><span class="title">Who is working?</span></Dialog.Title>
        <Dialog.Description
          ><span class="note"
            >This is your first change here. The name goes into the record with every change, and can be changed at the top right.</span
          ></Dialog.Description
        >
        <form onsubmit={(e) => (e.preventDefault(), text.trim() && performance.now() - opened > grace && who.is(text))}>
          <label class="note" for="who">Name in the record</label>
          <input id="who" class="field" bind:this={field} bind:value={text} maxlength="80" autocomplete="name" />
          <div class="acts">
            <button class="btn pri" disabled={!text.trim()}>That is me <kbd>Enter</kbd></button>
            <button type="button" class="btn" onclick={() => who.close()}>Not now <kbd>Esc</kbd></button>
          </div>
        </form>
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<style>
  form {
    display: grid;
    gap: 8px;
    margin-top: 8px;
  }
  .acts {
    display: flex;
    gap: 10px;
  }
  .title {
    font: 500 var(--t-head) / 1.2 var(--f-read);
  }
</style>
