// The arrows of the house point one way, for folders as for packages; what a folder is for stands in its README.
const server = folder => `^packages/server/src/${folder}/`
const core = folder => `^packages/core/src/${folder}/`
const web = folder => `^src/${folder}/`
const never = (name, from, to) => ({ name, severity: 'error', from: { path: from }, to: { path: to } })

module.exports = {
  forbidden: [
    {
      name: 'files-in-a-circle',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    { name: 'folders-in-a-circle', severity: 'error', scope: 'folder', from: {}, to: { circular: true } },
    never(
      'the database knows nothing above it',
      server('(data|work)'),
      server('(access|context|own|connecting|sync|view|files|intake|summary|http|demo)'),
    ),
    never(
      'connecting comes before sync',
      server('(own|connecting|access|context)'),
      server('(sync|view|files|http|demo)'),
    ),
    never('sync knows no screen', server('sync'), server('(view|files|intake|summary|http|demo)')),
    never('a stage reads, another writes', server('sync/pull'), server('sync/(plan|push|move|engine)')),
    never('planning sends nothing', server('sync/plan'), server('sync/(push|engine)')),
    never(
      'routes are only mounted',
      server('(data|work|access|context|own|connecting|sync|view|files|summary|demo)'),
      server('http'),
    ),
    // Only view/ and files/ read items, and lower them for whoever asks.
    never(
      'what leaves the server has been lowered',
      server('(http|team|summary|intake)'),
      '^packages/server/src/data/repositories/(mirrors|originals|cloth|own-layer|changes|subtasks)\\.ts$',
    ),
    never('sync knows no screen', core('sync'), core('view')),
    never('text knows no work', core('(ical|recurrence|time|items)'), core('(sync|view|formats|capture)')),
    never('stores know no screen', web('(api|stores|ui)'), web('(features|app)')),
    never('screens know no shell', web('features'), web('app')),
  ],
  options: {
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    doNotFollow: { path: 'node_modules' },
    exclude: 'node_modules|/dist/',
  },
}
