package org.lendspan.app.scanner

import android.app.Activity
import android.content.Intent
import org.lendspan.app.MainActivity

/** Reads the label on a tool. */
class ScannerActivity : Activity() {
    fun done() {
        startActivity(Intent(this, MainActivity::class.java))
    }
}
