package org.lendspan.catalog

/** The tools that a neighbourhood lends. Shared with the courier app, so its package stays. */
data class Tool(val name: String, val shelf: Int)

class Catalog(val tools: List<Tool>) {
    companion object {
        fun default(): Catalog = Catalog(listOf(Tool("ladder", 1), Tool("drill", 2)))
    }
}
