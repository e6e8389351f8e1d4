import SwiftUI

@main
struct LockersApp: App {
    var body: some Scene {
        WindowGroup { Text("Lockers") }
    }
}
