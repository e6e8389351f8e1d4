package org.lendspan.app.data;

/** Weighs tools in native code. */
public final class ToolScales {
    static {
        System.loadLibrary("toolscales");
    }

    private ToolScales() {}

    static native long weigh(String tool);

    static native String unit_of(int row);

    static Row row(int number, String tool, LoanProvider[] shelves) {
        return new Row();
    }

    /** One weighing. */
    static final class Row {}
}
