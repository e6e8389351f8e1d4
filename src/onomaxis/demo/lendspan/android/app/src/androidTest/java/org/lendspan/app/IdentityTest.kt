package org.lendspan.app

import androidx.test.platform.app.InstrumentationRegistry
import org.junit.Assert.assertEquals
import org.junit.Test

class IdentityTest {
    @Test
    fun appReportsItsOwnId() {
        val context = InstrumentationRegistry.getInstrumentation().targetContext
        assertEquals("org.lendspan.app.debug", context.packageName)
    }
}
