package org.lendspan.app

import android.app.Activity
import android.content.Intent
import android.os.Bundle
import android.widget.TextView
import org.lendspan.app.ui.LoanActivity
import org.lendspan.app.ui.ToolCardView

class MainActivity : Activity() {
    override fun onCreate(state: Bundle?) {
        super.onCreate(state)
        setContentView(R.layout.activity_main)
        val card = findViewById<ToolCardView>(R.id.card)
        card.setOnClickListener {
            startActivity(Intent(this, LoanActivity::class.java).setAction("org.lendspan.app.action.SHOW_LOAN"))
        }
        // The shop of org.lendspan.app replaces this text once the catalog has loaded.
        findViewById<TextView>(R.id.tool).text = getString(R.string.loan_title)
    }
}
