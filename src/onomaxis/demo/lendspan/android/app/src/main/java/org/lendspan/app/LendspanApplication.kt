package org.lendspan.app

import android.app.Application
import org.lendspan.app.data.LoanStore
import org.lendspan.catalog.Catalog

/** Opens the loan store once, before the first screen. See [org.lendspan.app.data.LoanStore]. */
class LendspanApplication : Application() {
    val store: LoanStore by lazy { LoanStore(this, Catalog.default()) }
}
