import SwiftUI
import WidgetKit

@main
struct LoanWidget: Widget {
    var body: some WidgetConfiguration {
        StaticConfiguration(kind: "org.lendspan.app.widget.loans", provider: LoanTimeline()) { entry in
            Text(entry.tool)
        }
        .configurationDisplayName("Lendspan")
    }
}

struct LoanEntry: TimelineEntry {
    let date: Date
    let tool: String
}

struct LoanTimeline: TimelineProvider {
    func placeholder(in context: Context) -> LoanEntry {
        LoanEntry(date: .now, tool: "ladder")
    }

    func getSnapshot(in context: Context, completion: @escaping (LoanEntry) -> Void) {
        completion(placeholder(in: context))
    }

    func getTimeline(in context: Context, completion: @escaping (Timeline<LoanEntry>) -> Void) {
        let defaults = UserDefaults(suiteName: "group.org.lendspan.app")
        let tool = defaults?.stringArray(forKey: "tools")?.first ?? "nothing"
        completion(Timeline(entries: [LoanEntry(date: .now, tool: tool)], policy: .never))
    }
}
