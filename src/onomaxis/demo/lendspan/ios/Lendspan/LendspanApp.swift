import BackgroundTasks
import OSLog
import SwiftUI

@main
struct LendspanApp: App {
    private let log = Logger(subsystem: "org.lendspan.app", category: "start")

    var body: some Scene {
        WindowGroup {
            LoanList(store: LoanStore())
        }
        .backgroundTask(.appRefresh("org.lendspan.app.refresh")) {
            await LoanStore().refresh()
        }
    }
}
