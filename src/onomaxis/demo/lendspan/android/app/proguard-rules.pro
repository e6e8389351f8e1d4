# Classes that the loan exporter finds by name.
-keep class org.lendspan.app.legacy.LoanExporter { *; }
-keepclassmembers class org.lendspan.app.data.** {
    <init>(...);
}
