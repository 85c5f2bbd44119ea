/** The steps that exist, in the order people work; Alt and the number goes there. */
export const STEPS = [
  { path: '/links', name: 'Links', about: 'how bytes travel, and who is at the other end' },
  { path: '/lists', name: 'Lists', about: 'import a tag list' },
  { path: '/map', name: 'Map', about: 'addresses, types and orders of all tags' },
  { path: '/scale', name: 'Scale', about: 'from raw counts to engineering units' },
  { path: '/panels', name: 'Panels', about: 'what the operator sees' },
  { path: '/check', name: 'Check', about: 'prove tags with a witness' },
] as const;
