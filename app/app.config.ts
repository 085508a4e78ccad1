/** A field of 22 pixels, as tall as a line of the controls. */
const FIELD = { base: 'h-[22px] px-2 py-0 gap-1' }
const TEXT = [{ fixed: false, size: 'xs' as const, class: 'text-[13px]/5 md:text-[13px]/5' }]
/** The entry of a list that Enter takes. */
const MARKED = 'data-highlighted:not-data-disabled:before:bg-(--ub-accent-soft)'
/** Menus of actions. */
const MENU = {
  slots: { content: 'rounded-none', item: 'before:rounded-none', itemTrailingKbds: 'ms-6' },
  variants: { active: { false: { item: MARKED } }, size: { sm: { item: 'text-[13px] px-2.5 py-1' } } },
  defaultVariants: { size: 'sm' as const },
}
const FLAT = 'rounded-none transition-none'

/**
 * The look of the interface's components: neutral, quiet, dense, square, one accent. Two variants of buttons are ours:
 * `bare` has only what is around it, `link` is a word that does something.
 */
export default defineAppConfig({
  ui: {
    colors: { primary: 'verdigris', neutral: 'neutral' },
    button: {
      slots: { base: `${FLAT} font-normal` },
      variants: { variant: { bare: '', link: 'ub-link' }, size: { sm: { base: 'px-3 py-1 text-[13px]' } } },
      compoundVariants: [
        {
          variant: ['bare', 'link'],
          class: 'inline-block p-0 gap-0 text-[length:inherit] leading-[inherit] font-[inherit] disabled:opacity-45',
        },
      ],
      defaultVariants: { color: 'neutral', variant: 'outline', size: 'sm' },
    },
    input: {
      slots: { base: FLAT },
      variants: { size: { xs: FIELD }, variant: { outline: 'bg-(--ub-card) ring-(--ub-line)' } },
      compoundVariants: TEXT,
      defaultVariants: { color: 'neutral', size: 'xs' },
    },
    textarea: {
      slots: { base: `${FLAT} resize-none` },
      compoundVariants: TEXT,
      defaultVariants: { color: 'neutral', size: 'xs' },
    },
    select: {
      slots: {
        base: `${FLAT} min-w-0`,
        content: 'rounded-none w-auto min-w-(--reka-select-trigger-width) max-w-96',
        placeholder: 'text-(--ub-quiet)',
      },
      variants: {
        size: { xs: { ...FIELD, trailingIcon: 'size-3.5', item: 'text-[13px] px-2 py-0.5' } },
        variant: { outline: 'bg-(--ub-card) ring-(--ub-line)' },
      },
      compoundVariants: TEXT,
      defaultVariants: { color: 'neutral', size: 'xs' },
    },
    selectMenu: {
      slots: {
        base: `${FLAT} min-w-0`,
        content: 'rounded-none w-auto min-w-(--reka-combobox-trigger-width) max-w-96',
        placeholder: 'text-(--ub-quiet)',
      },
      variants: {
        size: { xs: { ...FIELD, trailingIcon: 'size-3.5', item: 'text-[13px] px-2 py-0.5' } },
        variant: { outline: 'bg-(--ub-card) ring-(--ub-line)' },
      },
      compoundVariants: TEXT,
      defaultVariants: { color: 'neutral', size: 'xs' },
    },
    empty: {
      slots: {
        root: 'rounded-none gap-3 p-0 sm:p-0 lg:p-0',
        header: 'gap-2 max-w-[56ch]',
        title: 'text-(--ub-text) text-[18px] font-semibold',
        description: 'text-(--ub-text)',
        body: 'max-w-[56ch]',
        footer: 'max-w-[56ch]',
      },
      compoundVariants: [
        { variant: 'naked', class: { description: 'text-(--ub-text) text-[13px]', title: 'text-[18px]' } },
      ],
      defaultVariants: { variant: 'naked', size: 'sm' },
    },
    checkbox: {
      slots: { base: 'rounded-none ring-(--ub-line-strong)', label: 'font-normal' },
      variants: { size: { xs: { base: 'size-3.5', container: 'h-[18px]', wrapper: 'text-[13px]/[18px] ms-1.5' } } },
      defaultVariants: { size: 'xs' },
    },
    commandPalette: {
      slots: {
        item: 'before:rounded-none',
        itemLabel: 'text-(--ub-quiet)',
        itemLabelSuffix: 'text-(--ub-quiet) text-[11px]',
        label: 'font-medium text-(--ub-quiet)',
        group: 'p-0.5',
      },
      variants: {
        active: { false: { item: MARKED } },
        size: { sm: { input: '[&>input]:h-9', item: 'px-2.5 py-1 text-[13px]', label: 'px-2.5 py-1 text-[11px]' } },
      },
      defaultVariants: { size: 'sm' },
    },
    contextMenu: MENU,
    dropdownMenu: MENU,
    // What finds no room above or below scrolls.
    popover: { slots: { content: 'rounded-none max-h-(--reka-popover-content-available-height) overflow-y-auto' } },
    modal: { slots: { content: 'rounded-none!' } },
    tooltip: { slots: { content: 'rounded-none text-[12px]' } },
    toast: { slots: { root: 'rounded-none', title: 'text-[13px]' } },
    kbd: {
      slots: { base: 'rounded-none font-mono font-normal' },
      defaultVariants: { color: 'neutral', variant: 'subtle', size: 'sm' },
    },
    progress: { slots: { base: 'rounded-none bg-(--ub-line)', indicator: 'rounded-none' } },
    table: {
      slots: {
        th: 'p-0 pr-4 py-0.5 text-[13px] font-normal text-(--ub-quiet)',
        td: 'p-0 pr-4 py-[3px] text-[12px] text-(--ub-text) whitespace-normal',
        tbody: 'divide-(--ub-line)',
      },
    },
    radioGroup: {
      slots: { base: 'ring-(--ub-line-strong)', label: 'font-normal' },
      variants: { size: { xs: { base: 'size-3.5', container: 'h-[18px]', item: 'text-[13px]/[18px]' } } },
      defaultVariants: { size: 'xs' },
    },
  },
})
