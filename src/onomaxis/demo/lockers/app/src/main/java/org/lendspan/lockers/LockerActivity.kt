package org.lendspan.lockers

import android.app.Activity

class LockerActivity : Activity()
