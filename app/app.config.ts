export default defineAppConfig({ ui: { colors: { primary: 'verdigris', neutral: 'neutral' } } })
