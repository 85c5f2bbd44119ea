/** The name, or the first of `name 2`, `name 3` … that none of the others has, upper and lower case alike. */
export function freeName(wanted: string, others: readonly { readonly name: string }[]): string {
  const taken = new Set(others.map(({ name }) => name.toLowerCase()));
  let name = wanted;
  for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${wanted} ${n}`;
  return name;
}
