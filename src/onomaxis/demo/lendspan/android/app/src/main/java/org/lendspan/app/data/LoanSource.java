package org.lendspan.app.data;

/** Where loans come from; found by the service loader. */
public interface LoanSource {}
