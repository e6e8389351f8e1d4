import Foundation

/// Keeps the loans where the widget can read them.
struct LoanStore {
    static let group = "group.org.lendspan.app"
    private let defaults = UserDefaults(suiteName: LoanStore.group)

    var tools: [String] {
        defaults?.stringArray(forKey: "tools") ?? []
    }

    func refresh() async {
        defaults?.set(["ladder", "drill"], forKey: "tools")
    }
}
