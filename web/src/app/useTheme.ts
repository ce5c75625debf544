/** The theme: light or dark, kept by the browser; one state for all who ask. */
import { createSharedComposable, useDark, useToggle } from '@vueuse/core'

export const useTheme = createSharedComposable(() => {
  const dark = useDark({ storageKey: 'pontifex-theme' })
  return { dark, toggleDark: useToggle(dark) }
})
