package org.lendspan.app;

interface ILoanWatcher {
    void onDue(String tool);
}
