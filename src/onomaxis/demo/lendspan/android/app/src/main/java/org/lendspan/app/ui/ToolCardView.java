package org.lendspan.app.ui;

import android.content.Context;
import android.util.AttributeSet;
import android.widget.LinearLayout;

/** A card that shows one tool. */
public class ToolCardView extends LinearLayout {
    public ToolCardView(Context context, AttributeSet attributes) {
        super(context, attributes);
    }
}
