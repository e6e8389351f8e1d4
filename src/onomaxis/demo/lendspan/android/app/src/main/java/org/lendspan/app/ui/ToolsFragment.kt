package org.lendspan.app.ui

import android.app.Fragment

/** The shelf: what can be borrowed today. */
class ToolsFragment : Fragment()
