package org.lendspan.app.data

import androidx.room.Database
import androidx.room.RoomDatabase

@Database(entities = [Loan::class], version = 1)
abstract class LoanDatabase : RoomDatabase()

data class Loan(val tool: String, val due: Long)
