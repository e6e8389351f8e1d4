package org.lendspan.app.legacy;

final class Columns {
    static final String TOOL = "tool";
    static final String DUE = "due";

    private Columns() {}
}
