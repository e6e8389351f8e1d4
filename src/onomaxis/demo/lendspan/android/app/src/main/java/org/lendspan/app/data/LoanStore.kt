package org.lendspan.app.data

import android.content.Context
import android.net.Uri
import org.lendspan.catalog.Catalog

class LoanStore(private val context: Context, private val catalog: Catalog) {
    val loans: Uri = Uri.parse("content://$AUTHORITY/loans")

    fun names(): List<String> = catalog.tools.map { it.name }

    fun exporter(): Any = Class.forName("org.lendspan.app.legacy.LoanExporter").getDeclaredConstructor().newInstance()

    companion object {
        const val AUTHORITY = "org.lendspan.app.loans"
    }
}
