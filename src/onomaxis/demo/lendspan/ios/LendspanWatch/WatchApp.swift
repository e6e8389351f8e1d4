import SwiftUI
import os

@main
struct WatchApp: App {
    private let log = Logger(subsystem: "org.lendspan.app.watchkitapp", category: "loans")

    var body: some Scene {
        WindowGroup {
            Text("Two tools are due")
        }
    }
}
