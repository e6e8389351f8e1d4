package org.lendspan.app;

import static org.junit.Assert.assertEquals;

import java.util.List;
import org.junit.Test;
import org.lendspan.app.legacy.LoanExporter;

public class LoanExporterTest {
    @Test
    public void writesOneLinePerTool() {
        assertEquals("tool,due\nladder,", new LoanExporter().export(List.of("ladder")));
    }
}
