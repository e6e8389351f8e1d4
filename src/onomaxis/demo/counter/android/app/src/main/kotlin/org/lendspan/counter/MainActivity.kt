package org.lendspan.counter

import io.flutter.embedding.android.FlutterActivity

class MainActivity : FlutterActivity()
