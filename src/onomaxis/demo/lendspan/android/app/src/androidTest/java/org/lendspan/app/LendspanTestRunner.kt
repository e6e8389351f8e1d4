package org.lendspan.app

import androidx.test.runner.AndroidJUnitRunner

class LendspanTestRunner : AndroidJUnitRunner()
