"""The command line, driven as a person drives it on the demo's files; output compared whole."""

import json
import os
import shlex
import subprocess
import sys

import pytest
from click.testing import CliRunner

from even_sieve import __version__, table_from
from even_sieve.cli.main import main
from even_sieve.demo.make import write_files
from even_sieve.sources import files, long_csv, long_typed

# The words of the call, what it prints.
ANSWERED = [
    (r'''tally calls.csv "sum of dues"''', r'''

 measure            value
 ────────────────────────
 sum of dues   351,352.70

 account: 438 rows = 6 blank + 3 error + 14 not a number + 415 used

 note: 12 rows look like totals of rows above in column 'dues' and may be counted twice: rows 38,
 74, 107, 150, 186, …; to leave them out: --subtotal found
'''),
    (r'''tally calls.csv rows "sum of dues" "max of dues" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "zone = Outer and arrived in 2031-Q1"''', r'''

 measure           value   found at
 ──────────────────────────────────
 rows                 40
 sum of dues   14,703.15
 max of dues    1,646.10   row 34

 account, rows: 438 rows = 12 subtotal + 18 hidden + 368 unmatched + 40 used
 account, sum of dues, max of dues: 438 rows = 12 subtotal + 18 hidden + 368 unmatched + 1 not a
 number + 39 used
'''),
    (r'''tally calls.csv rows "sum of dues" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "zone = Roads" --where "dues > 900"''', r'''

 measure           value
 ───────────────────────
 rows                  7
 sum of dues   10,930.80

 account: 438 rows = 12 subtotal + 18 hidden + 401 unmatched + 7 used
'''),
    (r'''tally calls.csv rows "sum of dues" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --criteria wanted.csv''', r'''

 measure           value
 ───────────────────────
 rows                 37
 sum of dues   17,508.78

 account, rows: 438 rows = 12 subtotal + 18 hidden + 371 unmatched + 37 used
 account, sum of dues: 438 rows = 12 subtotal + 18 hidden + 371 unmatched + 1 not a number + 36
 used
'''),
    (r'''tally calls.csv rows --criteria wanted-with-gap.csv''', r'''

 measure   value
 ───────────────
 rows         55

 account: 438 rows = 383 unmatched + 55 used

 note: wanted-with-gap.csv, row 3: the row is blank and was passed over
'''),
    (r'''tally calls.csv rows "sum of dues" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --by zone --where "zone != Outer"''', r'''

 zone    rows   sum of dues
 ──────────────────────────
 Inner    138     52,014.09
 North     86     38,213.09
 Roads     50     22,688.05

 total    274    112,915.23

 account of the total, rows: 438 rows = 12 subtotal + 18 hidden + 134 unmatched + 274 used
 account of the total, sum of dues: 438 rows = 12 subtotal + 18 hidden + 134 unmatched + 4 blank +
 2 error + 10 not a number + 258 used
'''),
    (r'''tally calls.csv rows "late = sum of dues where status = late" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --by zone --format csv''', r'''
zone,rows,late,mark
Inner,138,6619.98,
North,86,3390.73,
Outer,134,6922.3,
Roads,50,2377.53,
total,408,19310.54,total
'''),
    (r'''tally calls.csv rows "sum of dues" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --by status --format markdown''', r'''
| status | rows | sum of dues |
| --- | ---: | ---: |
| late | 49 | 19,310.54 |
| open | 72 | 28,753.10 |
| paid | 287 | 120,594.69 |
| **total** | **408** | **168,658.33** |

- rows: 438 rows = 12 subtotal + 18 hidden + 408 used
- sum of dues: 438 rows = 12 subtotal + 18 hidden + 6 blank + 3 error + 14 not a number + 385 used
'''),
    (r'''tally calls.csv rows --where "zone = {zone} and dues >= {floor}" --set zone=Outer --set zone=Inner --set floor=900''', r'''

 measure   value
 ───────────────
 rows         39

 account: 438 rows = 399 unmatched + 39 used
'''),
    (r'''tally calls.csv rows --where "arrived in last 30 days" --as-of 2031-03-31''', r'''

 measure   value
 ───────────────
 rows         30

 account: 438 rows = 408 unmatched + 30 used

 note: dates are as of 2031-03-31
'''),
    (r'''tally calls.csv rows --where "arrived in FY2031-Q1" --fiscal-start 4''', r'''

 measure   value
 ───────────────
 rows          0

 account: 438 rows = 438 unmatched

 note: 'arrived in FY2031-Q1' holds for no row; the closest is 2031-01-01T01:00 in row 2
 note: no row matched: this 0 stands for nothing found
'''),
    (r'''tally calls.csv "distinct of remarks" "blanks of remarks" --blank-as fog''', r'''

 measure               value
 ───────────────────────────
 distinct of remarks       8
 blanks of remarks       354

 account: 438 rows = 354 blank + 84 used
'''),
    (r'''tally calls.csv "sum of dues" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --keep hidden,subtotals''', r'''

 measure            value
 ────────────────────────
 sum of dues   351,352.70

 account: 438 rows = 6 blank + 3 error + 14 not a number + 415 used

 note: 12 rows of subtotals kept: what they repeat is counted twice
'''),
    (r'''tally calls.csv rows --where "zone = Outer and dues > 99999"''', r'''

 measure   value
 ───────────────
 rows          0

 account: 438 rows = 438 unmatched

 note: 'dues > 99999' holds for no row
 note: no row matched: this 0 stands for nothing found
'''),
    (r'''tally calls.csv rows --where "zone != Outer and dues > 900 or class = tanker" --explain''', r'''

 measure   value
 ───────────────
 rows         98

 account: 438 rows = 340 unmatched + 98 used

 note: 'zone != Outer' leaves rows out of its own alternative only: 33 rows of them come in through
 'class = tanker'; if they are to stay out, repeat the exclusion there
 note: 1 matching row holds an error in column 'dues', which the criteria ask; to leave them out
 add: dues is not error

 alternative 1: 49 rows, 12 of them by no other alternative

 condition       holds for   left in turn
 ────────────────────────────────────────
 rows in play                         438
 zone != Outer         300            300
 dues > 900             71             49

 alternative 2: 86 rows, 49 of them by no other alternative

 condition        holds for   left in turn
 ─────────────────────────────────────────
 rows in play                          438
 class = tanker          86             86

 in words: zone is not Outer, and dues is above 900; or class is tanker
 98 of 438 rows match

 rows = 98
   the number of matching rows
   rows that match: zone is not Outer, and dues is above 900; or class is tanker
   of 438 rows:
     340 do not match (rows 2, 3, 4, 5, 6, …)
     98 used (rows 19, 23, 34, 38, 40, …)
'''),
    (r'''tally calls.csv "sum of dues" "percentile 90 of tonnage" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "zone = Outer and arrived in 2031-Q1" --explain --recheck''', r'''

 measure                        value   found at
 ──────────────────────────────────────────────────────
 sum of dues                14,703.15
 percentile 90 of tonnage       7,390   rows 61, 76, 78

 account, sum of dues: 438 rows = 12 subtotal + 18 hidden + 368 unmatched + 1 not a number + 39
 used
 account, percentile 90 of tonnage: 438 rows = 12 subtotal + 18 hidden + 368 unmatched + 40 used

 condition            holds for   left in turn
 ─────────────────────────────────────────────
 rows in play                              408
 zone = Outer               134            134
 arrived in 2031-Q1          96             40

 in words: zone is Outer, and arrived from 1 January 2031 to 31 March 2031, both days included
 40 of 438 rows match

 sum of dues = 14,703.15
   the exact sum of the numbers, rounded once, in column 'dues'
   rows that match: zone is Outer, and arrived from 1 January 2031 to 31 March 2031, both days
   included
   of 438 rows:
     12 left out: a subtotal repeats other rows (rows 38, 74, 107, 150, 186, …)
     18 left out: hidden by a person (rows 4, 9, 10, 17, 42, …)
     368 do not match (rows 8, 11, 12, 13, 15, …)
     1 matched, but 'dues' holds another kind of value (row 76)
     39 used (rows 2, 3, 5, 6, 7, …)
   before rounding: 294063/20

 percentile 90 of tonnage = 7,390
   the value below which 90 of a hundred lie, between two neighbours in proportion, in column
   'tonnage' (inclusive)
   rows that match: zone is Outer, and arrived from 1 January 2031 to 31 March 2031, both days
   included
   of 438 rows:
     12 left out: a subtotal repeats other rows (rows 38, 74, 107, 150, 186, …)
     18 left out: hidden by a person (rows 4, 9, 10, 17, 42, …)
     368 do not match (rows 8, 11, 12, 13, 15, …)
     40 used (rows 2, 3, 5, 6, 7, …)

 recheck: sum of dues agrees: 14703.15, row by row 14703.15; all 438 rows in the same buckets
 recheck: percentile 90 of tonnage agrees: 7390, row by row 7390; all 438 rows in the same buckets
'''),
    (r'''tally calls.csv "all of hours" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "zone = Outer"''', r'''

 measure                 value   found at
 ─────────────────────────────────────────────
 numbers of hours          134
 blanks of hours             0
 errors of hours             0
 distinct of hours         121
 sum of hours          6,336.7
 average of hours       47.289
 deviation of hours     24.990
 min of hours              2.1   row 195
 quartile 1 of hours      26.1   rows 287, 355
 median of hours         47.65   rows 61, 402
 quartile 3 of hours      70.7   rows 173, 236
 max of hours             89.2   row 75

 account: 438 rows = 12 subtotal + 18 hidden + 274 unmatched + 134 used
'''),
    (r'''bridge calls.csv "sum of dues" --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "zone = Outer and (arrived in 2031-Q1 or status = paid)"''', r'''

 step                                         rows   sum of dues   rows left         left
 ────────────────────────────────────────────────────────────────────────────────────────
 sum of dues, all rows                                                   438   351,352.70
 subtotal rows                                 -12   -175,676.35         426   175,676.35
 hidden rows                                   -18     -7,018.02         408   168,658.33
 not: zone = Outer                            -274   -112,915.23         134    55,743.10
 not: (arrived in 2031-Q1 or status = paid)    -27    -12,204.96         107    43,538.14
 blank cells                                    -2          0.00         105    43,538.14
 error cells                                    -1          0.00         104    43,538.14
 cells of another kind                          -4          0.00         100    43,538.14

 sum of dues                                                             100    43,538.14
'''),
    (r'''tally harbour.ods "median of dues" "weighted average of dues by tonnage" "share of dues" --by zone --recheck''', r'''

 zone    median of dues   weighted average of dues by tonnage   share of dues
 ────────────────────────────────────────────────────────────────────────────
 Inner           252.75                              665.1280          30.8 %
 North          324.375                              773.4060          22.7 %
 Outer           276.26                              748.0356          33.1 %
 Roads           353.86                              904.6825          13.5 %

 total           276.75                              747.7546         100.0 %

 account of the total: 438 rows = 12 subtotal + 18 hidden + 6 blank + 3 error + 14 not a number +
 385 used

 note: share of dues: the lines are rounded one by one; as they are shown they add up to 100.1 %,
 and the total is 100.0 %

 recheck: median of dues, Inner agrees: 252.75, row by row 252.75; all 438 rows in the same buckets
 recheck: weighted average of dues by tonnage, Inner agrees: 665.1279528002457, row by row 665.1279528002457; all 438 rows in the same buckets
 recheck: share of dues, Inner agrees: 0.3083991760146089, row by row 0.3083991760146089; all 438 rows in the same buckets
 recheck: median of dues, North agrees: 324.375, row by row 324.375; all 438 rows in the same buckets
 recheck: weighted average of dues by tonnage, North agrees: 773.4059551176792, row by row 773.4059551176792; all 438 rows in the same buckets
 recheck: share of dues, North agrees: 0.22657102083247238, row by row 0.22657102083247238; all 438 rows in the same buckets
 recheck: median of dues, Outer agrees: 276.26, row by row 276.26; all 438 rows in the same buckets
 recheck: weighted average of dues by tonnage, Outer agrees: 748.035641202986, row by row 748.035641202986; all 438 rows in the same buckets
 recheck: share of dues, Outer agrees: 0.3305090237760566, row by row 0.3305090237760566; all 438 rows in the same buckets
 recheck: median of dues, Roads agrees: 353.86, row by row 353.86; all 438 rows in the same buckets
 recheck: weighted average of dues by tonnage, Roads agrees: 904.6825348348922, row by row 904.6825348348922; all 438 rows in the same buckets
 recheck: share of dues, Roads agrees: 0.13452077937686208, row by row 0.13452077937686208; all 438 rows in the same buckets
 recheck: median of dues agrees: 276.75, row by row 276.75; all 438 rows in the same buckets
 recheck: weighted average of dues by tonnage agrees: 747.7546213456561, row by row 747.7546213456561; all 438 rows in the same buckets
 recheck: share of dues agrees: 1.0, row by row 1.0; all 438 rows in the same buckets
'''),
    (r'''bridge calls.csv rows --where "zone = Roads" --format markdown''', r'''
| step | rows | rows left |
| --- | ---: | ---: |
| all rows |  | 438 |
| not: zone = Roads | -383 | 55 |
| **rows** |  | **55** |
'''),
    (r'''tally harbour.ods "sum of dues" --by zone --across "arrived by quarter" --recheck''', r'''

 zone      2031-Q1     2031-Q2     2031-Q3     2031-Q4        total
 ──────────────────────────────────────────────────────────────────
 Inner   11,464.30   16,189.64   10,619.91   13,740.24    52,014.09
 North    5,620.00   11,188.32   14,014.00    7,390.77    38,213.09
 Outer   14,703.15   12,191.66    9,834.36   19,013.93    55,743.10
 Roads    4,634.24    3,842.96    8,269.63    5,941.22    22,688.05

 total   36,421.69   43,412.58   42,737.90   46,086.16   168,658.33

 account of the total: 438 rows = 12 subtotal + 18 hidden + 6 blank + 3 error + 14 not a number +
 385 used

 recheck: sum of dues, Inner, 2031-Q1 agrees: 11464.3, row by row 11464.3; all 438 rows in the same buckets
 recheck: sum of dues, Inner, 2031-Q2 agrees: 16189.64, row by row 16189.64; all 438 rows in the same buckets
 recheck: sum of dues, Inner, 2031-Q3 agrees: 10619.91, row by row 10619.91; all 438 rows in the same buckets
 recheck: sum of dues, Inner, 2031-Q4 agrees: 13740.24, row by row 13740.24; all 438 rows in the same buckets
 recheck: sum of dues, North, 2031-Q1 agrees: 5620.0, row by row 5620.0; all 438 rows in the same buckets
 recheck: sum of dues, North, 2031-Q2 agrees: 11188.32, row by row 11188.32; all 438 rows in the same buckets
 recheck: sum of dues, North, 2031-Q3 agrees: 14014.0, row by row 14014.0; all 438 rows in the same buckets
 recheck: sum of dues, North, 2031-Q4 agrees: 7390.77, row by row 7390.77; all 438 rows in the same buckets
 recheck: sum of dues, Outer, 2031-Q1 agrees: 14703.15, row by row 14703.15; all 438 rows in the same buckets
 recheck: sum of dues, Outer, 2031-Q2 agrees: 12191.66, row by row 12191.66; all 438 rows in the same buckets
 recheck: sum of dues, Outer, 2031-Q3 agrees: 9834.36, row by row 9834.36; all 438 rows in the same buckets
 recheck: sum of dues, Outer, 2031-Q4 agrees: 19013.93, row by row 19013.93; all 438 rows in the same buckets
 recheck: sum of dues, Roads, 2031-Q1 agrees: 4634.24, row by row 4634.24; all 438 rows in the same buckets
 recheck: sum of dues, Roads, 2031-Q2 agrees: 3842.96, row by row 3842.96; all 438 rows in the same buckets
 recheck: sum of dues, Roads, 2031-Q3 agrees: 8269.63, row by row 8269.63; all 438 rows in the same buckets
 recheck: sum of dues, Roads, 2031-Q4 agrees: 5941.22, row by row 5941.22; all 438 rows in the same buckets
 recheck: sum of dues, Inner agrees: 52014.09, row by row 52014.09; all 438 rows in the same buckets
 recheck: sum of dues, North agrees: 38213.09, row by row 38213.09; all 438 rows in the same buckets
 recheck: sum of dues, Outer agrees: 55743.1, row by row 55743.1; all 438 rows in the same buckets
 recheck: sum of dues, Roads agrees: 22688.05, row by row 22688.05; all 438 rows in the same buckets
 recheck: sum of dues, 2031-Q1 agrees: 36421.69, row by row 36421.69; all 438 rows in the same buckets
 recheck: sum of dues, 2031-Q2 agrees: 43412.58, row by row 43412.58; all 438 rows in the same buckets
 recheck: sum of dues, 2031-Q3 agrees: 42737.9, row by row 42737.9; all 438 rows in the same buckets
 recheck: sum of dues, 2031-Q4 agrees: 46086.16, row by row 46086.16; all 438 rows in the same buckets
 recheck: sum of dues agrees: 168658.33, row by row 168658.33; all 438 rows in the same buckets
'''),
    (r'''tally harbour.ods rows "sum of dues" --by zone --by "dues in bands 500" --sort "sum of dues"''', r'''

 zone    dues in bands 500   rows   sum of dues
 ──────────────────────────────────────────────
 Outer   500 and above         32     33,593.40
 Outer   below 500             95     22,149.70
 Outer   waived                 4          0.00
 Outer   #N/A                   1          0.00
 Outer   (blank)                2          0.00
 Outer   total                134     55,743.10
 Inner   500 and above         31     30,569.89
 Inner   below 500             98     21,444.20
 Inner   waived                 5          0.00
 Inner   #N/A                   2          0.00
 Inner   (blank)                2          0.00
 Inner   total                138     52,014.09
 North   500 and above         23     23,730.51
 North   below 500             59     14,482.58
 North   waived                 2          0.00
 North   (blank)                2          0.00
 North   total                 86     38,213.09
 Roads   500 and above         11     13,626.50
 Roads   below 500             36      9,061.55
 Roads   waived                 3          0.00
 Roads   total                 50     22,688.05

 total                        408    168,658.33

 account of the total, rows: 438 rows = 12 subtotal + 18 hidden + 408 used
 account of the total, sum of dues: 438 rows = 12 subtotal + 18 hidden + 6 blank + 3 error + 14 not
 a number + 385 used

 note: on 9 lines a 0 stands for nothing found or added: Outer, waived; Outer, #N/A; Outer,
 (blank); …
'''),
    (r'''tally harbour.xlsx rows "share of dues" --by "vessel as 'x' | B* | Nobody" --where "zone = Outer"''', r'''

 vessel as 'x' | B* | Nobody   rows   share of dues
 ──────────────────────────────────────────────────
 'x'                              0           0.0 %
 B*                              25          10.9 %
 Nobody                           0           0.0 %
 rest                           109          89.1 %

 total                          134         100.0 %

 account of the total, rows: 438 rows = 12 subtotal + 18 hidden + 274 unmatched + 134 used
 account of the total, share of dues: 438 rows = 12 subtotal + 18 hidden + 274 unmatched + 2 blank
 + 1 error + 4 not a number + 127 used

 note: the names of the columns were taken from row 3; see --header
 note: 'x': no row matched: this 0 stands for nothing found
 note: Nobody: no row matched: this 0 stands for nothing found
'''),
    (r'''tally harbour.ods rows "median of dues" --by vessel --top 2 --format csv''', r'''
vessel,rows,median of dues,mark
Brisk Heron,24,146.52,
Jolly Puffin,24,328.8,
22 others,360,288.45,
total,408,276.75,total
'''),
    (r'''tally harbour.ods rows "sum of due" "sum of dues" --look-up "tariff.csv on class bring a ton as rate, least" --derive "due = max(least, round(rate * tonnage, 2))" --by "arrived by quarter"''', r'''

 arrived by quarter   rows   sum of due   sum of dues
 ────────────────────────────────────────────────────
 2031-Q1                96    24,516.50     36,421.69
 2031-Q2               105    26,020.95     43,412.58
 2031-Q3               102    28,777.15     42,737.90
 2031-Q4               105    27,530.40     46,086.16

 total                 408   106,845.00    168,658.33

 account of the total, rows, sum of due: 438 rows = 12 subtotal + 18 hidden + 408 used
 account of the total, sum of dues: 438 rows = 12 subtotal + 18 hidden + 6 blank + 3 error + 14 not
 a number + 385 used
'''),
    (r'''tally calls.csv rows --derive "size = small if tonnage < 1000, medium if tonnage < 5000, else large" --by size --across "arrived by quarter"''', r'''

 size     2031-Q1   2031-Q2   2031-Q3   2031-Q4   (blank)   total
 ────────────────────────────────────────────────────────────────
 small         16        21        26        29                92
 medium        66        69        58        58               251
 large         21        18        23        21        12      95

 total        103       108       107       108        12     438

 account of the total: 438 rows = 438 used
'''),
    (r'''rows calls.csv --derive "stay = departed - arrived" --derive 'label = "{vessel} ({class})"' --where "stay > 3.5" --columns call,label,stay --limit 3''', r'''

 row   call    label                       stay
 ──────────────────────────────────────────────
   3   C0002   Old Cormorant (ferry)   3.583333
   5   C0004   Sandpiper (trawler)     3.620833
  12   C0011   Bold Curlew (barge)          3.7

 28 of 438 rows match, the first 3 are shown
'''),
    (r'''bridge harbour.xlsx "late = sum of dues where status = open" --format csv''', r'''
reason,step,rows,amount,rows_left,amount_left
start,"sum of dues, all rows",438,351352.7,438,351352.7
subtotal,subtotal rows,-12,-175676.35,426,175676.35
hidden,hidden rows,-18,-7018.02,408,168658.33
unmatched,not: status = open,-336,-139905.23,72,28753.1
error,error cells,-1,0,71,28753.1
not_a_number,cells of another kind,-5,0,66,28753.1
figure,late,66,28753.1,66,28753.1
'''),
    (r'''rows calls.csv --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "zone = Outer and dues > 1500" --columns call,vessel,dues --sort "dues desc"''', r'''

 row   call    vessel            dues
 ────────────────────────────────────
 357   C0347   Amber Tern    1,822.35
 411   C0399   Fair Gannet   1,671.80
 255   C0248   Fair Gannet   1,664.30
  34   C0033   Amber Tern    1,646.10
 199   C0193   Amber Tern    1,543.35

 5 of 438 rows match
'''),
    (r'''rows calls.csv --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "dues > 1700" --columns call,dues --format csv''', r'''
call,dues
C0196,1722.6
C0223,1781.1
C0347,1822.35
C0385,1800.6
C0420,1780.35
'''),
    (r'''rows calls.csv --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "zone = Inner and dues > 300" --columns call,zone,dues --all --limit 5''', r'''

 row   call    zone      dues   verdict
 ───────────────────────────────────────────────
   2   C0001   Outer    54.27   not zone = Inner
   3   C0002   Outer   359.70   not zone = Inner
   4   C0003   Inner   652.48   hidden
   5   C0004   Outer   214.52   not zone = Inner
   6   C0005   Outer   287.85   not zone = Inner

 51 of 438 rows match; of all rows the first 5 are shown
'''),
    (r'''rows calls.csv --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "class = tanker" --columns call,dues --limit 2 --format json''', r'''
{
  "rows": [
    {
      "row": 19,
      "cells": {
        "call": "C0018",
        "dues": 1149.95
      }
    },
    {
      "row": 23,
      "cells": {
        "call": "C0022",
        "dues": 1634.85
      }
    }
  ],
  "matching": 84,
  "rows_in_table": 438,
  "notices": []
}
'''),
    (r'''rows calls.csv --subtotal "vessel = Month total*" --hidden "status = withdrawn" --where "class = tanker" --columns call,dues --limit 2 --format markdown''', r'''
| row | call | dues |
| ---: | --- | ---: |
| 19 | C0018 | 1,149.95 |
| 23 | C0022 | 1,634.85 |

- 84 of 438 rows match, the first 2 are shown
'''),
    (r'''tally harbour.ods rows "sum of dues" --criteria "harbour.ods!wanted"''', r'''

 measure           value
 ───────────────────────
 rows                 37
 sum of dues   17,508.78

 account, rows: 438 rows = 12 subtotal + 18 hidden + 371 unmatched + 37 used
 account, sum of dues: 438 rows = 12 subtotal + 18 hidden + 371 unmatched + 1 not a number + 36
 used
'''),
    (r'''tally harbour.xlsx rows "sum of dues" "max of dues" --where "zone = Outer and arrived in 2031-Q1"''', r'''

 measure           value   found at
 ──────────────────────────────────
 rows                 40
 sum of dues   14,703.15
 max of dues    1,646.10   row 36

 account, rows: 438 rows = 12 subtotal + 18 hidden + 368 unmatched + 40 used
 account, sum of dues, max of dues: 438 rows = 12 subtotal + 18 hidden + 368 unmatched + 1 not a
 number + 39 used

 note: the names of the columns were taken from row 3; see --header
'''),
]  # fmt: skip

# The words of the call, its exit status, what it says.
REFUSED = [
    (r'''tally calls.csv rows --derive "x = dues /"''', 2, r'''even-sieve: derive 'x': 'dues /', position 7: a number or a column is missing
'''),
    (r'''tally calls.csv rows --look-up "tariff.csv"''', 2, r'''even-sieve: 'tariff.csv' is no look-up
Write for example: tariff.csv on class
'''),
    (r'''tally calls.csv rows --look-up "tarif.csv on class"''', 2, r'''even-sieve: tarif.csv: there is no such file
Did you mean 'tariff.csv'?
'''),
    (r'''tally calls.csv rows --look-up "calls.csv on zone bring call as other"''', 1, r'''even-sieve: look up: calls.csv: the key zone = Inner stands in rows 4, 8, 10, …
A key must lead to one row: mark or take out the others
'''),
    (r'''tally calls.csv rows --by "zone by month"''', 2, r'''even-sieve: by 'zone by month': column 'zone' holds text and blanks and no date
'''),
    (r'''tally calls.csv rows --by zone --sort rwos''', 2, r'''even-sieve: there is no measure 'rwos' to sort by
Did you mean 'rows'?
'''),
    (r'''tally calls.csv rows --across zone''', 2, r'''even-sieve: --across, --sort and --top go with --by
Write: --by COLUMN
'''),
    (r'''tally calls.csv rows --by zone --by class --top 3''', 2, r'''even-sieve: the first lines can be chosen along one axis alone
Leave out --top
'''),
    (r'''tally calls.csv "only of berth" --where "zone = Outer"''', 1, r'''even-sieve: measure 'only of berth': 138 values where one was expected
Rows: 2, 3, 5, 6, 7, 9, 14, 16, 18, 21, 22, 24, …
Narrow the criteria, or ask for first, last or mode
'''),
    (r'''bridge calls.csv "average of dues"''', 2, r'''even-sieve: 'average of dues' has no bridge: its parts do not add up
Ask for one of: sum, rows, numbers, filled
'''),
    (r'''bridge calls.csv "sum of dues" --chart dues.pdf''', 2, r'''even-sieve: dues.pdf: a chart that ends in '.pdf' is not written
Written are: .png, .svg
'''),
    (r'''tally calls.csv "percentile of dues"''', 2, r'''even-sieve: measure 'percentile of dues': 'percentile' needs a percentage from 0 to 100
Write for example: percentile 90 of tonnage
'''),
    (r'''tally calls.csv "range of arrived"''', 1, r'''even-sieve: measure 'range of arrived': column 'arrived' holds dates, and a range is a difference of numbers
Ask for min or max of arrived
'''),
    (r'''tally none.csv rows''', 2, r'''even-sieve: none.csv: there is no such file
Did you mean 'wanted.csv'?
'''),
    (r'''tally . rows''', 1, r'''even-sieve: wanted.csv: two columns are called 'arrived' (columns 2 and 3)
Rename one of them: a name must mean one column.
'''),
    (r'''tally tariff.csv rows --and calls.csv''', 1, r'''even-sieve: calls.csv: there is no column 'a ton', which tariff.csv has
To take what is lacking as blank say: --lacking blank
'''),
    (r'''tally months rows --hidden-rows 12''', 1, r'''even-sieve: the rows are of 12 sources, and each counts its own
Say of which source: 12 of 2031-01.csv
'''),
    (r'''tally months rows --and months/2031-01.csv''', 2, r'''even-sieve: months/2031-01.csv is named twice: its rows would count twice
Name it once
'''),
    (r'''tally months/*.ods rows''', 2, r'''even-sieve: months/*.ods: no file that is read matches this pattern
Beside it are: 2031-01.csv, 2031-02.csv, 2031-03.csv, 2031-04.csv, 2031-05.csv
'''),
    (r'''tally months.xlsx!2032-* rows''', 1, r'''even-sieve: months.xlsx: no sheet '2032-*'
Did you mean '2031-12', '2031-11' or '2031-10'?
'''),
    (r'''tally calls.csv "sum of duse"''', 1, r'''even-sieve: measure 'sum of duse': no column 'duse'
Did you mean 'dues'?
'''),
    (r'''tally calls.csv sum''', 2, r'''even-sieve: measure 'sum': 'sum' needs a column
Write for example: sum of tonnage
'''),
    (r'''tally calls.csv smu''', 2, r'''even-sieve: measure 'smu': no measure 'smu'
Did you mean 'sum'?
'''),
    (r'''tally calls.csv "sum of arrived"''', 1, r'''even-sieve: measure 'sum of arrived': column 'arrived' holds dates, and dates do not add up
Ask for min or max of arrived
'''),
    (r'''tally calls.csv rows --where "zone Outer"''', 2, r'''even-sieve: criteria 'zone Outer', position 1: no comparison after 'zone'
Accepted are =, !=, <, <=, >, >=, in, is; for example: zone = Outer
'''),
    (r'''tally calls.csv rows --where "zoen = Outer"''', 1, r'''even-sieve: criteria 'zoen = Outer', position 1: no column 'zoen'
Did you mean 'zone'?
'''),
    (r'''tally calls.csv rows --where "dues > {floor}"''', 2, r'''even-sieve: parameter 'floor': it has no value
Set it: floor=VALUE
'''),
    (r'''tally calls.csv rows --set floor''', 2, r'''even-sieve: parameter 'floor': no value is given
Write: --set NAME=VALUE
'''),
    (r'''tally calls.csv rows --keep everything''', 2, r'''even-sieve: keep: 'everything' is nothing to keep
Accepted are subtotals, hidden, filtered, blanks, errors
'''),
    (r'''tally calls.csv rows --by zoen''', 1, r'''even-sieve: by: no column 'zoen'
Did you mean 'zone'?
'''),
    (r'''tally calls.csv rows --criteria none.csv''', 2, r'''even-sieve: none.csv: there is no such file
Did you mean 'wanted.csv'?
'''),
    (r'''tally calls.csv rows --subtotal "vessel"''', 2, r'''even-sieve: criteria 'vessel', position 1: no comparison after 'vessel'
Accepted are =, !=, <, <=, >, >=, in, is; for example: vessel is filled
'''),
    (r'''tally calls.csv rows --explain --format csv''', 2, r'''even-sieve: --explain has no place in CSV
Use --format table, json or markdown.
'''),
    (r'''rows harbour.xlsx --cells N3:Q5''', 1, r'''even-sieve: harbour.xlsx: two columns are called 'arrived' (columns 2 and 3)
Rename one of them: a name must mean one column.
'''),
    (r'''tally harbour.ods rows --sheet cals''', 1, r'''even-sieve: harbour.ods: no sheet 'cals'
Did you mean 'calls'?
'''),
    (r'''tally harbour.ods rows --criteria "harbour.ods!wantd"''', 1, r'''even-sieve: harbour.ods: no range, table or block 'wantd'
Did you mean 'wanted'?
'''),
    (r'''rows calls.csv --columns call,duse''', 1, r'''even-sieve: no column 'duse'
Did you mean 'dues'?
'''),
    (r'''rows calls.csv --sort duse''', 1, r'''even-sieve: no column 'duse'
Did you mean 'dues'?
'''),
]  # fmt: skip


@pytest.fixture
def folder(tmp_path, monkeypatch):
    """Stand in a new folder with the demo's files."""
    write_files(tmp_path)
    monkeypatch.chdir(tmp_path)
    return tmp_path


@pytest.fixture
def call(folder):
    """Run a call in that folder."""
    return lambda words: CliRunner().invoke(main, shlex.split(words))


@pytest.mark.parametrize(("words", "printed"), ANSWERED)
def test_a_call_is_answered(call, words, printed):
    result = call(words)
    assert (result.exit_code, result.stderr) == (0, "")
    assert result.stdout == printed.removeprefix("\n")


@pytest.mark.parametrize(("words", "status", "said"), REFUSED)
def test_a_call_that_cannot_be_answered_says_why_in_one_message(call, words, status, said):
    result = call(words)
    assert (result.exit_code, result.stdout, result.stderr) == (status, "", said)


def test_a_kept_error_is_shown_and_the_status_is_1(call):
    result = call('tally calls.csv "sum of dues" --keep errors --format json')
    assert result.exit_code == 1
    (figure,) = json.loads(result.stdout)["measures"]
    assert (figure["value"], figure["found_at"]) == (None, [250])
    assert call('tally calls.csv "sum of dues" --keep errors --by zone').exit_code == 1


def test_json_carries_the_explanation_and_the_date(call):
    words = (
        'tally calls.csv rows --where "arrived in last 30 days" --as-of 2031-03-31 --format json'
    )
    found = json.loads(call(words + " --explain").stdout)
    assert found["as_of"] == found["explain"]["as_of"] == "2031-03-31"
    assert found["explain"]["alternatives"][0]["steps"][0]["condition"] == "arrived in last 30 days"
    assert "explain" not in json.loads(call(words).stdout)
    assert "as_of" not in json.loads(call("tally calls.csv rows --format json").stdout)


def test_parameters_come_from_a_file_and_settings_go_before_them(call, folder):
    (folder / "values.csv").write_text("name,value\nzone,Outer\nzone,Roads\n\nfloor,900\nnone,\n")
    words = 'tally calls.csv rows --where "zone = {zone} and dues > {floor}" --format json '
    both = json.loads(call(words + "--parameters values.csv").stdout)["measures"][0]["value"]
    one = json.loads(call(words + "--parameters values.csv --set zone=Roads").stdout)
    alone = json.loads(
        call(
            'tally calls.csv rows --where "zone = Roads & = Roads and dues > 900" --format json'
        ).stdout
    )
    assert one["measures"][0]["value"] == alone["measures"][0]["value"] < both
    (folder / "bad.csv").write_text("name,value\n,5\n")
    refused = call(words + "--parameters bad.csv")
    assert refused.exit_code == 2
    assert refused.stderr == "even-sieve: parameter 'bad.csv': row 2 is not a name and a value\n"


def test_the_demo_shows_the_bare_total_beside_the_defended_one(call):
    result = call("demo")
    assert result.exit_code == 0
    text = " ".join(result.stdout.split())
    for words in (
        "351,352.70 bare total",
        "less 175,676.35 in 12 month totals",
        "less 7,018.02 in 18 withdrawn calls",
        "is 168,658.33.",
        "438 rows = 12 subtotal + 18 hidden + 6 blank + 3 error + 14 not a number + 385 used",
    ):
        assert words in text


def test_the_demo_writes_its_files_and_runs_its_report(call, folder):
    result = call("demo --to out")
    assert result.exit_code == 0
    for words in ("Harbour dues by quarter", "The quarter at a glance", "written: out/harbour.html",
                  "written: out/harbour-report.xlsx", "The page: open out/harbour.html in a browser"):  # fmt: skip
        assert words in result.stdout
    assert (folder / "out" / "calls.csv").read_bytes() == (folder / "calls.csv").read_bytes()
    (folder / "file").write_text("")
    assert call("demo --to file").exit_code == 1
    assert call("demo --to file").stderr == (
        "even-sieve: file: the demo cannot be written there: File exists\n"
    )


def test_beside_a_file_the_first_of_very_many_lines_are_shown(call, folder):
    rows = "".join(f"Quay {number},{number}\n" for number in range(600))
    (folder / "berths.csv").write_text(f"berth,dues\n{rows}")
    words = 'tally berths.csv "sum of dues" --by berth'
    shown, whole = call(f"{words} --to out.csv").stdout, call(words).stdout
    assert "the first 60 of 600 lines; the total is that of all" in shown
    assert (shown.count("Quay"), whole.count("Quay")) == (60, 600)
    assert (folder / "out.csv").read_text().count("Quay") == 600
    few = call('tally berths.csv rows --where "dues < 400" --by berth --to out.csv')
    assert few.stdout.count("Quay") == 400


def test_the_commands_are_listed_in_the_order_of_the_work(call):
    text = call("--help").stdout
    places = [text.index(f"\n  {name} ") for name in ("demo", "tally", "rows")]
    assert places == sorted(places)
    assert call("--version").stdout == f"even-sieve, version {__version__}\n"


def test_the_module_is_the_command():
    run = subprocess.run(
        [sys.executable, "-m", "even_sieve", "--version"],
        capture_output=True, text=True, check=True, env=os.environ,
    )  # fmt: skip
    assert run.stdout == f"even-sieve, version {__version__}\n"


def test_formulas_are_guarded_in_csv_on_the_screen_unless_they_are_left(call, folder):
    (folder / "odd.csv").write_text("zone\n=cmd()\n", encoding="utf-8")
    assert call("rows odd.csv --format csv").output.splitlines()[1:] == ["'=cmd()"]
    assert call("rows odd.csv --format csv --leave-formulas").output.splitlines()[1:] == ["=cmd()"]


def test_more_rows_than_may_be_numbered_are_refused_before_they_are_counted_out(call):
    result = call("tally calls.csv rows --hidden-rows 9,17-45048347")
    assert result.exit_code == 2
    assert "more than 10,000,000 rows" in result.stderr


@pytest.mark.parametrize(
    "words",
    [
        ["tally", "sum fo dues"],
        ["tally", "sum of duse"],
        ["tally", "rows", "--where", "zone == Outer"],
        ["tally", "rows", "--where", "zoen = Outer"],
        ["tally", "sum of dues", "--by", "zoen"],
        ["tally", "sum of x", "--derive", "x = duse * 2"],
        ["tally", "rows", "--hidden", "zoen = Outer"],
        ["rows", "--sort", "duse"],
        ["bridge", "sum of duse"],
        ["check", "--where", "zone = "],
        ["check", "--hidden", "zoen = Outer"],
    ],
)
@pytest.mark.parametrize("ending", ["csv", "parquet"])
def test_words_that_are_wrong_are_told_before_a_long_file_is_read(
    call, monkeypatch, tmp_path, words, ending
):
    table_from({"zone": ["Outer", "Inner"], "dues": [120.5, 80]}).write(tmp_path / f"c.{ending}")
    line = shlex.join([words[0], f"c.{ending}", *words[1:]])
    monkeypatch.setattr(files, "_LONG", 1 << 30)
    late = call(line)
    monkeypatch.setattr(files, "_LONG", 1)
    for module, name in ((long_csv, "gather_here"), (long_typed, "_grown")):
        monkeypatch.setattr(module, name, None)
    early = call(line)
    assert late.exit_code > 0
    assert (early.exit_code, early.stderr) == (late.exit_code, late.stderr)


@pytest.mark.parametrize("option", ["--keep hidden", "--strict"])
def test_check_refuses_what_has_no_meaning_for_it(call, option):
    result = call(f"check calls.csv {option}")
    assert (result.exit_code, result.stdout) == (2, "")
    assert f"check takes no {option.split()[0]}: " in result.stderr
    assert option.split()[0] not in call("check --help").stdout


def test_check_looks_at_the_rows_that_match(call):
    found = json.loads(call("check calls.csv --where 'zone = Outer' --format json").stdout)
    whole = json.loads(
        call(
            "tally calls.csv rows 'min of dues' --where 'zone = Outer' --keep hidden --format json"
        ).stdout
    )
    zone, dues = (
        next(c for c in found["columns"] if c["name"] == name) for name in ("zone", "dues")
    )
    assert (found["rows"], zone["distinct"]) == (whole["measures"][0]["value"], 1)
    assert dues["least"] == whole["measures"][1]["value"]
    none = call("check calls.csv --where 'zone = Nowhere'").stdout
    assert "0 rows" in none
    assert "no row holds 'Nowhere'" in none


def test_what_hangs_on_cells_is_not_told_before_they_are_read(call, monkeypatch, tmp_path):
    table_from({"zone": ["Outer", "Inner"], "dues": [120.5, 80]}).write(tmp_path / "c.csv")
    monkeypatch.setattr(files, "_LONG", 1)
    for words, said in (
        ("tally c.csv 'sum of x' --derive 'x = dues * 2' --where 'zone > M and dues > 5'", "241"),
        ("tally c.csv 'only of zone' --where 'zone = Outer' --by 'dues in bands 100'", "Outer"),
        ("tally c.csv rows --origin from --by from", "c.csv"),
    ):
        found = call(words)
        assert (found.exit_code, said in found.stdout) == (0, True)


@pytest.mark.parametrize(
    ("words", "status", "said"),
    [
        ("tally calls.csv rows --to out.json", 2, "ends in '.json' is not written"),
        ("rows calls.csv --to nowhere/out.csv", 1, "there is no folder nowhere"),
        ("bridge calls.csv 'sum of dues' --chart nowhere/out.png", 1, "there is no folder nowhere"),
        ("bridge calls.csv 'sum of dues' --chart out.txt --to out.csv", 2, "chart that ends in"),
    ],
)
def test_what_cannot_be_written_is_told_before_anything_is_read(
    call, monkeypatch, words, status, said
):
    def read(*given):
        raise AssertionError("it was read")

    monkeypatch.setattr("even_sieve.sources.several.read_places", read)
    found = call(words)
    assert (found.exit_code, said in found.stderr, found.stdout) == (status, True, "")
