interface Strand {
  collections: { a: readonly string[]; b: readonly string[] }
}

/** Rules by the chains they make: those that share a list or calendar together, the longest chain first. */
export function longestFirst<S extends Strand>(strands: readonly S[]): S[] {
  const chains: { ids: Set<string>; strands: S[] }[] = []
  for (const strand of strands) {
    const ids = [...strand.collections.a, ...strand.collections.b]
    const met = chains.filter(c => ids.some(id => c.ids.has(id)))
    const [first] = met
    if (!first) {
      chains.push({ ids: new Set(ids), strands: [strand] })
      continue
    }
    // A rule may join what were several chains before it.
    for (const other of met.slice(1)) {
      other.ids.forEach(id => first.ids.add(id))
      first.strands.push(...other.strands)
      chains.splice(chains.indexOf(other), 1)
    }
    ids.forEach(id => first.ids.add(id))
    first.strands.push(strand)
  }
  return chains.sort((x, y) => y.strands.length - x.strands.length).flatMap(c => c.strands)
}
