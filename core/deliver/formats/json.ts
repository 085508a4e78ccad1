import { defineFormat } from './declare'
import { partRows, TABLE_CARRIES } from './partRows'

export default defineFormat({
  word: 'json',
  section: 'tables',
  title: 'Part table, JSON',
  help: 'The same for a program.',
  ending: '.json',
  suffix: '.parts.json',
  carries: TABLE_CARRIES,
  async files(leaving) {
    const rows = await partRows(leaving)
    return rows.map(([file, values]) => [`${file}.parts.json`, `${JSON.stringify(values, null, 1)}\n`])
  },
})
