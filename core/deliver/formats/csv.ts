import { defineFormat } from './declare'
import { partRows, TABLE_CARRIES } from './partRows'

export default defineFormat({
  word: 'csv',
  section: 'tables',
  title: 'Part table, CSV',
  help: 'A row for each part, for a spreadsheet.',
  ending: '.csv',
  carries: TABLE_CARRIES,
  async files(leaving) {
    const { partValuesCsv } = await import('../../bake/values')
    const rows = await partRows(leaving)
    return rows.map(([file, values]) => [`${file}.csv`, partValuesCsv(values)])
  },
})
