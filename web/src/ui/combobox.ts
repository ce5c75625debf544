/**
 * `v-combobox`: what a screen reader needs to know of a text field with suggestions. Element Plus's inputs take no role,
 * and its autocomplete names an item that isn't there while none is chosen.
 */
import type { Directive } from 'vue'

export interface Combobox {
  listId?: string // of the suggestions, where Element Plus doesn't name them itself
  expanded: boolean
  activeId?: string // of the suggestion that is chosen
}

function tell(root: HTMLElement, { listId, expanded, activeId }: Combobox): void {
  const input = root.querySelector('input')
  if (!input) return
  input.setAttribute('role', 'combobox')
  input.setAttribute('aria-expanded', String(expanded))
  if (listId) input.setAttribute('aria-controls', listId)
  if (activeId) input.setAttribute('aria-activedescendant', activeId)
  else input.removeAttribute('aria-activedescendant')
}

export const vCombobox: Directive<HTMLElement, Combobox> = {
  mounted: (root, { value }) => tell(root, value),
  updated: (root, { value }) => tell(root, value),
}
