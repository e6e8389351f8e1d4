import LendspanKit
import SwiftUI

struct LoanList: View {
    let store: LoanStore

    var body: some View {
        List(store.tools, id: \.self) { tool in
            Text("\(tool) is yours")
        }
        .navigationTitle("Lendspan")
    }
}
