package org.lendspan.app.ui

import android.app.Activity
import android.os.Bundle
import org.lendspan.app.LendspanApplication
import org.lendspan.app.R

class LoanActivity : Activity() {
    override fun onCreate(state: Bundle?) {
        super.onCreate(state)
        val store = (application as LendspanApplication).store
        title = getString(R.string.loan_title) + store.names().firstOrNull().orEmpty()
    }
}
