<script lang="ts">
  // The password once more, where people sign in; on one's own computer there is none to ask for.
  import { session } from "../../state/session.svelte";

  let {
    id,
    to = "",
    name,
    value = $bindable(),
  }: { id: string; /** What it is asked for, as ", to approve". */ to?: string; name: string; value: string } = $props();
</script>

{#if session.signsIn}
  <label class="note" for={id}>Password, again{to}</label>
  <input {id} class="field" type="password" autocomplete="current-password" title="The password of {name}" bind:value />
{/if}

<style>
  .field {
    width: 100%;
  }
</style>
