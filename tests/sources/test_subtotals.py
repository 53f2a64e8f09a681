import pytest

from even_sieve.sources.subtotals import is_subtotalling

#: In row 20 of column C, by functions of ISO/IEC 26300-4 and 29500-1.
TOTALS = """SUM(C2:C19) | =SUM($C$2:$C$19) | sum( c2 : c9 ) | SUM(C2:C5,C7:C9) | SUM(C7,C19) | C7+C19 | +C7+C19
C$7+C$19 | SUM(C2:C5)+SUM(C7:C9) | ROUND(SUM(C2:C9),2) | of:=ROUND(SUM([.C2:.C9]);2) | of:=[.C7]+[.C19]
of:=SUM([.C2];[.C9]) | of:=SUM([.$C$2:.$C$9]) | oooc:=SUM([.C2:.C3]) | SUM(C21:C30) | SUBTOTAL(9,C2:C9)
of:=AGGREGATE(9;5;[.C2:.C9])*2 | SUMIF(A2:A9,"East",C2:C9) | SUMPRODUCT(B2:B9,C2:C9) | SUMIFS(C2:C9,A2:A9,">5")"""
OTHERS = """C2 | SUM(C2) | C2+1 | C19+C$1 | C19+B20 | SUM(A20:B20) | SUM(B2:B19) | SUM(C2:C25) | SUM(C2:C9)/2 | C2-C3
SUM(C2:C9)-C4 | of:=[.C2]+[Other.C3] | SUM(Other!C2:C9) | SUM(dues) | SUMIF(A2:A9,"East",B2:B9) | C2*C3 | ""
MAX(C$1:C19)+1 | SUMIF(A2:A9,C19,B2:B9) | IF(C2=C3,1,SUM(C2:C9))"""


def each_of(words):
    return [word.strip() for line in words.split("\n") for word in line.split("|")]


@pytest.mark.parametrize(("words", "told"), [(TOTALS, True), (OTHERS, False)])
def test_a_formula_that_adds_up_its_column_is_a_subtotal(words, told):
    found = {word: is_subtotalling(word, 20, 3) for word in each_of(words)}
    assert found == dict.fromkeys(found, told)
