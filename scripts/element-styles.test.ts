import { describe, expect, it } from 'vitest'
import { componentsIn, elementStyles } from './element-styles.mjs'

describe('the styles of Element Plus', () => {
  it('are found by the components’ names, in templates and in scripts', () => {
    expect(componentsIn('<el-input-number :min="1" /><el-tab-pane>')).toEqual(['input-number', 'tab-pane'])
    expect(componentsIn('ElMessageBox.confirm(…); <ElConfigProvider>')).toEqual(['message-box', 'config-provider'])
  })
  it('are those of what is used and of what that is made of, each once, and no others', () => {
    const styles = elementStyles().map((path) => path.split('/').at(-1))
    // A list that unfolds is made of a popper, options and tags.
    for (const name of ['base', 'el-button', 'el-select', 'el-popper', 'el-option', 'el-tag', 'el-message-box'])
      expect(styles).toContain(`${name}.css`)
    expect(new Set(styles).size).toBe(styles.length)
    for (const name of ['el-carousel', 'el-tree', 'el-upload']) expect(styles).not.toContain(`${name}.css`)
    expect(styles.indexOf('base.css')).toBe(0)
  })
})
