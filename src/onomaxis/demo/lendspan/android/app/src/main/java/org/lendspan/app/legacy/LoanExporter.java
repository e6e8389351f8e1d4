package org.lendspan.app.legacy;

import static org.lendspan.app.legacy.Columns.DUE;

import java.util.List;
import java.util.StringJoiner;

/** Writes loans as comma-separated lines. Kept for {@link org.lendspan.app.data.LoanProvider}. */
public final class LoanExporter {
    public String export(List<String> tools) {
        StringJoiner lines = new StringJoiner("\n");
        lines.add(org.lendspan.app.legacy.Columns.TOOL + "," + DUE);
        for (String tool : tools) {
            lines.add(tool + ",");
        }
        return lines.toString();
    }
}
