package org.lendspan.app.data;

import android.content.ContentProvider;
import android.content.ContentValues;
import android.database.Cursor;
import android.net.Uri;

import org.lendspan.app.R;

/** Gives loans to the courier app. */
public class LoanProvider extends ContentProvider {
    static final Uri LOANS = Uri.parse("content://org.lendspan.app.loans/loans");

    @Override
    public boolean onCreate() {
        return true;
    }

    @Override
    public Cursor query(Uri uri, String[] projection, String selection, String[] arguments, String order) {
        return null;
    }

    @Override
    public String getType(Uri uri) {
        return "vnd.android.cursor.dir/vnd.org.lendspan.app.loan";
    }

    @Override
    public Uri insert(Uri uri, ContentValues values) {
        return LOANS;
    }

    @Override
    public int delete(Uri uri, String selection, String[] arguments) {
        return 0;
    }

    @Override
    public int update(Uri uri, ContentValues values, String selection, String[] arguments) {
        return R.string.due;
    }
}
