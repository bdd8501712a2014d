/** The places that exist, in the order of their number keys; `timed`: what is looked at there has a scope and a time. */
export const PLACES = [
  { path: '/now', name: 'Now', question: 'what needs me?', timed: true },
  { path: '/usage', name: 'Usage', question: 'who uses what, against which limit?', timed: true },
  { path: '/map', name: 'Map', question: 'who talks to whom?', timed: true },
  { path: '/measures', name: 'Measures', question: 'how do I compute it?', timed: true },
  { path: '/rules', name: 'Rules', question: 'when should somebody be told, and who?', timed: false },
  { path: '/sources', name: 'Sources', question: 'is data flowing?', timed: false },
  { path: '/admin', name: 'Admin', question: 'who may do what, who did what?', timed: false },
] as const;
