/** The places that exist, in the order of their number keys. */
export const PLACES = [
  { path: '/now', name: 'Now', question: 'what needs me?' },
  { path: '/usage', name: 'Usage', question: 'who uses what, against which limit?' },
  { path: '/rules', name: 'Rules', question: 'when should somebody be told, and who?' },
  { path: '/sources', name: 'Sources', question: 'is data flowing?' },
  { path: '/admin', name: 'Admin', question: 'who may do what, who did what?' },
] as const;
