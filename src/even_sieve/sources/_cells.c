/* Cells of text told apart in one pass over their bytes: numbers, ISO dates and times, dates in an
 * order that was given, and what is certain to be text. What is none of these for certain is left
 * unsure, for Python to read: nothing here guesses. `told_cells.py` says what for. */

#include "_cells.h"

/* States: the first ones are those of `Kind`; a written number is one as people write them. The last
 * ones are not put down: words are texts that are no written numbers either, cells with white space
 * around them are unsure ones, long numbers have more digits than 64 bits. */
enum { NUMBER = 0, DATE = 1, TEXT = 2, BLANK = 5, UNSURE = 6, WRITTEN = 7, WORD, SPACED, LONG, NONE };
/* What the summary holds, in this order; then the largest number of each count of decimals, and for
 * each currency sign 1 more than the first row that has it, or 0. */
enum {
    NUMBERS, DATES, TEXTS, BLANKS, UNSURES, WORDS, SPACES, WRITTENS, LONGS, PERCENTS, SIGNED,
    TIMED, CUT, FIRST, LEAST, MOST, LARGEST
};
/* A number of fixed point has so many decimals at the most, others as many or as few below none; a
 * long one has a mark. None is read of more bytes. */
enum { MOST_DECIMALS = 18, FAR = 280, LONGEST = 400, MOST_LONG = 38 };
enum { CODE = 19, SIGNS = LARGEST + MOST_DECIMALS + 1, HELD = SIGNS + 37 };
enum { DAY_FIRST = 1, MONTH_FIRST = 2, YEAR_FIRST = 3 };
/* Offsets are marked by their minutes east of UTC and this; the first mark is that of none. */
enum { OFFSET_0 = 1440, OFFSETS = 2 * OFFSET_0 };
/* An error has no more bytes; words that are no text have no more letters. */
enum { LONGEST_ERROR = 26, LONGEST_WORD = 8 };
#define SECOND INT64_C(1000000)
#define DAY (86400 * SECOND)
/* Days from 1970-01-01 to 0001-01-01 and 9999-12-31. */
#define FIRST_DAY INT64_C(-719162)
#define LAST_DAY INT64_C(2932896)

/* Marks of bytes: digits; letters that no number and no date has; what plain numbers are made of;
 * letters of exponents. */
enum { IS_DIGIT = 1, IS_LETTER = 2, IS_PLAIN = 4, IS_POWER = 8 };
static uint8_t marks[256];

typedef struct {
    uint8_t mark;
    int order;
    int64_t *summary;
    uint8_t *offsets;
    int64_t row;
} Told;

/* A number while it is read: its digits so far as a whole number, and how many are decimals. */
typedef struct {
    uint64_t value;
    int places, digits, is_long;
} Number;

/* Whether three bytes are white space of Unicode. */
static int is_wide_space(const uint8_t *s)
{
    if (s[0] == 0xE2 && s[1] == 0x80)
        return s[2] <= 0x8A || s[2] == 0xA8 || s[2] == 0xA9 || s[2] == 0xAF;
    return (s[0] == 0xE2 && s[1] == 0x81 && s[2] == 0x9F) ||
           (s[0] == 0xE1 && s[1] == 0x9A && s[2] == 0x80) ||
           (s[0] == 0xE3 && s[1] == 0x80 && s[2] == 0x80);
}

static int is_narrow_space(const uint8_t *s) { return s[0] == 0xC2 && (s[1] == 0x85 || s[1] == 0xA0); }

/* Whether there is white space at an end. */
static int is_spaced(const uint8_t *s, int64_t n)
{
    uint8_t first = s[0], last = s[n - 1];
    if (first <= 0x20 || last <= 0x20)
        return 1;
    if (first >= 0x80 && ((n > 1 && is_narrow_space(s)) || (n > 2 && is_wide_space(s))))
        return 1;
    return last >= 0x80 &&
           ((n > 1 && is_narrow_space(s + n - 2)) || (n > 2 && is_wide_space(s + n - 3)));
}

/* How many bytes a sign between thousands has there, 0 for none: those of `written.py`. */
static int separator(const uint8_t *s, const uint8_t *end, uint8_t mark)
{
    if (*s == '\'' || *s == ' ' || *s == (mark == '.' ? ',' : '.'))
        return 1;
    if (end - s > 1 && s[0] == 0xC2 && s[1] == 0xA0)
        return 2;
    if (end - s > 2 && s[0] == 0xE2 && s[1] == 0x80 && (s[2] == 0xAF || s[2] == 0x99))
        return 3;
    return 0;
}

/* Add a digit, and zeros before it. */
static void add(Number *to, int zeros, int digit)
{
    for (; zeros; zeros--)
        add(to, 0, 0);
    if (to->digits >= CODE)
        to->is_long = 1;
    if (to->is_long)
        return;
    to->value = to->value * 10 + (uint64_t)digit;
    to->digits += to->value != 0;
    to->is_long = to->value > INT64_MAX;
}

/* Read what follows the digits of a number as its exponent; 0 where that is none. */
static int exponent(const uint8_t *s, const uint8_t *end, Number *found)
{
    int power = 0, sign = 1;
    if (++s < end && (*s == '+' || *s == '-'))
        sign = *s++ == '-' ? -1 : 1;
    if (s == end || end - s > 4)
        return 0;
    for (; s < end; s++) {
        if (!is_digit(*s))
            return 0;
        power = power * 10 + (*s - '0');
    }
    found->places -= sign * power;
    while (found->places < 0 && found->value && found->value <= INT64_MAX / 10) {
        found->value *= 10;
        found->places++;
    }
    if (!found->value)
        found->places = 0;
    return 1;
}

/* Read a number; between its thousands may stand signs, where `grouped`. */
static int number(const uint8_t *s, int64_t n, uint8_t mark, int grouped, int64_t *value,
                  int16_t *places)
{
    const uint8_t *start = s, *end = s + n, *begin, *between = NULL;
    Number found = {0, 0, 0, 0};
    int negative = 0, width = 0, zeros = 0, has_mark = 0;
    int64_t count, after = 0;
    if (n > LONGEST) {
        while (s < end && marks[*s] & (IS_PLAIN | IS_POWER))
            s++;
        return s < end && !grouped ? NONE : UNSURE;
    }
    if (*s == '+' || *s == '-')
        negative = *s++ == '-';
    for (begin = s; s < end && is_digit(*s); s++)
        add(&found, 0, *s - '0');
    count = s - begin;
    if (grouped && count && count <= 3 && s < end && (width = separator(s, end, mark))) {
        if (*begin == '0')
            return NONE;
        for (between = s; s < end && *s != mark; s += 3, count += 3) {
            if (end - s < width + 3 || memcmp(s, between, (size_t)width))
                return NONE;
            s += width;
            if (!is_digit(s[0]) || !is_digit(s[1]) || !is_digit(s[2]))
                return NONE;
            for (int at = 0; at < 3; at++)
                add(&found, 0, s[at] - '0');
        }
    }
    if (count > 1 && *begin == '0')
        return NONE;
    if (s < end && *s == mark) {
        has_mark = 1;
        for (s++; s < end && is_digit(*s) && count + after < MOST_DECIMALS; s++, after++) {
            found.value = found.value * 10 + (uint64_t)(*s - '0'); /* so many always fit */
            found.digits += found.value != 0;
        }
        found.places = (int)after;
        for (; s < end && is_digit(*s); s++, after++) {
            if (found.is_long)
                continue;
            if (*s == '0') {
                zeros++; /* for as long as others follow */
                continue;
            }
            found.places += zeros + 1;
            add(&found, zeros, *s - '0');
            zeros = 0;
        }
    }
    if (!count && !after)
        return NONE;
    for (; zeros && found.digits < MOST_DECIMALS && found.places < MOST_DECIMALS; zeros--) {
        add(&found, 0, 0);
        found.places++;
    }
    if (s < end) {
        if ((*s | 0x20) != 'e' || between || !exponent(s, end, &found))
            return NONE;
        if (found.is_long)
            return UNSURE;
    } else if (count >= CODE && begin == start && !has_mark)
        return between ? NONE : WORD; /* a code */
    if (found.is_long)
        return mark == '.' && !between && count + after <= MOST_LONG ? LONG : UNSURE;
    if (found.places > FAR || found.places < -FAR)
        return UNSURE;
    *value = negative ? -(int64_t)found.value : (int64_t)found.value;
    *places = (int16_t)found.places;
    return NUMBER;
}

/* Count the currency sign that stands there, and return how many bytes it has; 0 for none. */
static int currency(const uint8_t *s, const uint8_t *end, int *sign)
{
    *sign = 0;
    if (s < end && *s == '$')
        return 1;
    if (end - s > 1 && s[0] == 0xC2 && s[1] >= 0xA2 && s[1] <= 0xA5) {
        *sign = 1 + s[1] - 0xA2;
        return 2;
    }
    if (end - s > 2 && s[0] == 0xE2 && s[1] == 0x82 && s[2] >= 0xA0 && s[2] <= 0xBF) {
        *sign = 5 + s[2] - 0xA0;
        return 3;
    }
    return 0;
}

/* The same of a sign that ends there. */
static int currency_before(const uint8_t *s, const uint8_t *end, int *sign)
{
    for (int width = 1; width <= 3 && end - s >= width; width++)
        if (currency(end - width, end, sign) == width)
            return width;
    return 0;
}

typedef struct {
    const uint8_t *begin, *end;
    int percent, sign, has_sign;
} Span;

/* Leave out spaces at the ends, those that do not break a line among them. */
static void strip(Span *in)
{
    for (;;) {
        int64_t left = in->end - in->begin;
        if (left > 0 && *in->begin == ' ')
            in->begin++;
        else if (left > 1 && !memcmp(in->begin, "\xC2\xA0", 2))
            in->begin += 2;
        else if (left > 2 && !memcmp(in->begin, "\xE2\x80\xAF", 3))
            in->begin += 3;
        else if (left > 0 && in->end[-1] == ' ')
            in->end--;
        else if (left > 1 && !memcmp(in->end - 2, "\xC2\xA0", 2))
            in->end -= 2;
        else if (left > 2 && !memcmp(in->end - 3, "\xE2\x80\xAF", 3))
            in->end -= 3;
        else
            return;
    }
}

static void take_percent(Span *from)
{
    if (from->begin < from->end && from->end[-1] == '%') {
        from->percent = 1;
        from->end--;
        strip(from);
    }
}

static void take_currency(Span *from)
{
    int width = currency(from->begin, from->end, &from->sign);
    if (width)
        from->begin += width;
    else if ((width = currency_before(from->begin, from->end, &from->sign)))
        from->end -= width;
    from->has_sign = width > 0;
    strip(from);
}

/* Read a number as people write it, as `read_written_number` does: with a currency or a percent
 * sign, in brackets, with signs between its thousands. */
static int written(const uint8_t *s, int64_t n, Told *told, int64_t *value, int16_t *places)
{
    Span body = {s, s + n, 0, 0, 0};
    int negative = 0, found;
    take_percent(&body);
    if (body.begin == body.end)
        return NONE;
    if (*body.begin == '+' || *body.begin == '-') {
        negative = *body.begin++ == '-';
        strip(&body);
        take_currency(&body);
        if (body.begin == body.end || *body.begin == '+' || *body.begin == '-')
            return NONE;
    } else {
        take_currency(&body);
        if (body.end - body.begin > 2 && *body.begin == '(' && body.end[-1] == ')') {
            negative = 1;
            body.begin++;
            body.end--;
            strip(&body);
            if (!body.percent)
                take_percent(&body);
            if (body.begin == body.end || *body.begin == '+' || *body.begin == '-')
                return NONE;
            if (!body.has_sign)
                take_currency(&body);
            if (body.begin == body.end || *body.begin == '+' || *body.begin == '-')
                return NONE;
        }
    }
    if (body.begin == body.end || (body.percent && (body.has_sign || told->mark != '.')))
        return NONE;
    found = number(body.begin, body.end - body.begin, told->mark, 1, value, places);
    if (found != NUMBER || *places > FAR - 2)
        return NONE;
    if (negative)
        *value = -*value;
    if (body.percent) {
        *places = (int16_t)(*value ? *places + 2 : 0);
        told->summary[PERCENTS]++;
    }
    if (body.has_sign) {
        told->summary[SIGNED]++;
        if (!told->summary[SIGNS + body.sign])
            told->summary[SIGNS + body.sign] = told->row + 1;
    }
    if (told->summary[FIRST] < 0)
        told->summary[FIRST] = told->row;
    return WRITTEN;
}

static int two(const uint8_t *s) { return (s[0] - '0') * 10 + (s[1] - '0'); }

static int are_digits(const uint8_t *s, int count)
{
    while (count--)
        if (!is_digit(*s++))
            return 0;
    return 1;
}

/* Count the days from 1970-01-01; 0 for a day that no calendar has, by the sum of whole years. */
static int days_of(int year, int month, int day, int64_t *days)
{
    static const int lengths[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
    static const int before[] = {0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334};
    int leap = (year % 4 == 0 && year % 100 != 0) || year % 400 == 0, past = year - 1;
    if (year < 1 || month < 1 || month > 12 || day < 1)
        return 0;
    if (day > lengths[month - 1] + (leap && month == 2))
        return 0;
    *days = FIRST_DAY + (int64_t)past * 365 + past / 4 - past / 100 + past / 400 +
            before[month - 1] + (leap && month > 2) + day - 1;
    return 1;
}

/* Read what may follow a time: nothing, or its offset, in minutes. */
static int offset_of(const uint8_t *s, const uint8_t *end, int *there, int *minutes)
{
    int sign, hour, minute = 0;
    *there = *minutes = 0;
    if (s == end)
        return 1;
    if (*s == ' ' && end - s > 1)
        s++;
    *there = 1;
    if (*s == 'Z' && end - s == 1)
        return 1;
    if ((*s != '+' && *s != '-') || end - s < 3 || !are_digits(s + 1, 2))
        return 0;
    sign = *s == '-' ? -1 : 1;
    hour = two(s + 1);
    s += 3;
    if (s < end) {
        s += *s == ':';
        if (end - s != 2 || !are_digits(s, 2))
            return 0;
        minute = two(s);
    }
    *minutes = sign * (60 * hour + minute);
    return hour < 24 && minute < 60;
}

/* Read an ISO date, with a time or without; NONE for others. */
static int iso_date(const uint8_t *s, int64_t n, Told *told, int64_t *value)
{
    const uint8_t *end = s + n;
    int64_t days, micros;
    int hour, minute, second = 0, fraction = 0, place, cut = 0, there, offset;
    if (n < 10 || s[4] != '-' || s[7] != '-' || !are_digits(s, 4) || !are_digits(s + 5, 2) ||
        !are_digits(s + 8, 2))
        return NONE;
    if (!days_of(two(s) * 100 + two(s + 2), two(s + 5), two(s + 8), &days))
        return NONE;
    if (n == 10) {
        *value = days * DAY;
        return DATE;
    }
    if (n < 16 || n > 40 || (s[10] != 'T' && s[10] != ' ') || s[13] != ':' ||
        !are_digits(s + 11, 2) || !are_digits(s + 14, 2))
        return NONE;
    hour = two(s + 11);
    minute = two(s + 14);
    s += 16;
    if (end - s >= 3 && *s == ':' && are_digits(s + 1, 2)) {
        second = two(s + 1);
        s += 3;
        if (end - s >= 2 && (*s == '.' || *s == ',') && is_digit(s[1])) {
            for (place = 0, s++; s < end && is_digit(*s); s++, place++) {
                if (place < 6)
                    fraction = fraction * 10 + (*s - '0');
                else
                    cut |= *s != '0';
            }
            for (; place < 6; place++)
                fraction *= 10;
        }
    }
    if (hour > 23 || minute > 59 || second > 59 || !offset_of(s, end, &there, &offset))
        return NONE;
    micros = ((hour * 60 + minute) * 60 + second) * SECOND + fraction;
    micros += days * DAY - offset * 60 * SECOND;
    if (micros < FIRST_DAY * DAY || micros >= (LAST_DAY + 1) * DAY)
        return NONE;
    told->offsets[there ? offset + OFFSET_0 : 0] = 1;
    if (cut && told->summary[CUT] < 0)
        told->summary[CUT] = told->row;
    *value = micros;
    return DATE;
}

/* Read one or two digits, or four of a year, and go on behind them; -1 for others. */
static int part(const uint8_t **s, const uint8_t *end, int is_year)
{
    const uint8_t *begin = *s;
    int found = 0;
    while (*s < end && is_digit(**s) && *s - begin < 5)
        found = found * 10 + (*(*s)++ - '0');
    if (is_year)
        return *s - begin == 4 ? found : -1;
    return *s - begin == 1 || *s - begin == 2 ? found : -1;
}

/* Read a date in the order that was given, and a time of 24 hours to the minute or the second. */
static int ordered_date(const uint8_t *s, int64_t n, int order, int64_t *value)
{
    const uint8_t *end = s + n;
    int parts[3], at, year, month, day, hour = 0, minute = 0, second = 0;
    int64_t days;
    uint8_t between = 0;
    for (at = 0; at < 3; at++) {
        if (at && (s == end || (*s != '.' && *s != '/' && *s != '-')))
            return NONE;
        if (at == 1)
            between = *s;
        if (at && *s++ != between)
            return NONE;
        parts[at] = part(&s, end, at == (order == YEAR_FIRST ? 0 : 2));
        if (parts[at] < 0)
            return NONE;
    }
    year = parts[order == YEAR_FIRST ? 0 : 2];
    month = parts[order == MONTH_FIRST ? 0 : 1];
    day = parts[order == YEAR_FIRST ? 2 : order == MONTH_FIRST ? 1 : 0];
    if (s < end) {
        if (*s++ != ' ' || (hour = part(&s, end, 0)) < 0 || end - s < 3 || *s != ':' ||
            !are_digits(s + 1, 2))
            return NONE;
        minute = two(s + 1);
        s += 3;
        if (end - s == 3 && *s == ':' && are_digits(s + 1, 2)) {
            second = two(s + 1);
            s += 3;
        }
    }
    if (s < end || hour > 23 || minute > 59 || second > 59 || !days_of(year, month, day, &days))
        return NONE;
    *value = days * DAY + ((hour * 60 + minute) * 60 + second) * SECOND;
    return DATE;
}

static int is_word(const uint8_t *s, int64_t n, const char *word)
{
    int64_t at, length = (int64_t)strlen(word);
    if (n != length)
        return 0;
    for (at = 0; at < n; at++)
        if ((s[at] | 0x20) != word[at])
            return 0;
    return 1;
}

/* Whether letters stand for yes or no, or for a number beyond any. */
static int is_no_text(const uint8_t *s, int64_t n)
{
    return n <= LONGEST_WORD && (is_word(s, n, "true") || is_word(s, n, "false") ||
                                 is_word(s, n, "inf") || is_word(s, n, "infinity"));
}

/* Tell a cell that is no number and no date from what may be one in another form. */
static int word(const uint8_t *s, int64_t n, Told *told, int64_t *value, int16_t *places)
{
    uint8_t first = s[0], last = s[n - 1], all = 0, common = IS_PLAIN;
    int64_t at, signs = 0;
    if (is_letter(first))
        return is_no_text(s, n) ? UNSURE : WORD;
    if (first == '#') {
        if (n > LONGEST_ERROR || (n > 1 && s[1] < 0x80 && !strchr("dDgGnNrRvV", s[1])))
            return WORD;
        return UNSURE;
    }
    for (at = 0; at < n; at++) {
        all |= marks[s[at]];
        common &= marks[s[at]];
    }
    while (signs < n && (s[signs] == '+' || s[signs] == '-'))
        signs++;
    if (signs && is_no_text(s + signs, n - signs))
        return UNSURE;
    if (!(all & IS_DIGIT))
        return WORD;
    if (all & IS_LETTER && !(is_digit(first) && (last == 'm' || last == 'M' || last == '.')))
        return WORD;
    if (common)
        return told->mark == '.' && !told->order && !(n > 4 && s[4] == '-') ? WORD : UNSURE;
    if (written(s, n, told, value, places) == WRITTEN)
        return WRITTEN;
    if (told->mark != '.')
        return UNSURE;
    if (!(marks[first] & IS_PLAIN))
        return TEXT;
    if (told->order)
        return UNSURE;
    if (is_digit(first) && ((n > 4 && s[4] == '-') || (n > 8 && (s[8] | 0x20) == 't')))
        return UNSURE;
    return TEXT;
}

static int tell(const uint8_t *s, int64_t n, Told *told, int64_t *value, int16_t *places)
{
    int found = NONE;
    if (!n)
        return BLANK;
    if (is_spaced(s, n))
        return SPACED;
    if (marks[s[0]] & IS_PLAIN || s[0] == told->mark) {
        found = number(s, n, told->mark, told->mark != '.', value, places);
        if (found == NONE && is_digit(s[0])) {
            found = iso_date(s, n, told, value);
            if (found == NONE && told->order)
                found = ordered_date(s, n, told->order, value);
        }
    }
    return found == NONE ? word(s, n, told, value, places) : found;
}

static void count(int found, int64_t value, int places, int64_t *summary)
{
    int64_t size = value < 0 ? -value : value;
    switch (found) {
    case LONG:
        summary[LONGS]++;
        summary[NUMBERS]++;
        break;
    case WRITTEN:
    case NUMBER:
        summary[found == NUMBER ? NUMBERS : WRITTENS]++;
        if (places < summary[LEAST])
            summary[LEAST] = places;
        if (places > summary[MOST])
            summary[MOST] = places;
        if (places >= 0 && places <= MOST_DECIMALS && size > summary[LARGEST + places])
            summary[LARGEST + places] = size;
        break;
    case DATE:
        summary[DATES]++;
        summary[TIMED] |= value % DAY != 0;
        break;
    case WORD:
        summary[WORDS]++; /* fall through */
    case TEXT:
        summary[TEXTS]++;
        break;
    case BLANK:
        summary[BLANKS]++;
        break;
    case SPACED:
        summary[SPACES]++; /* fall through */
    default:
        summary[UNSURES]++;
    }
}

/* What is put down for each state that is found. */
static const uint8_t put_down[] = {NUMBER, DATE, TEXT,   BLANK, BLANK, BLANK,
                                   UNSURE, WRITTEN, TEXT, UNSURE, NUMBER};

static int tell_all(const Py_buffer *data, const Py_buffer *ends, int wide, Py_ssize_t rows,
                    Told *told, uint8_t *states, int64_t *values, int16_t *places)
{
    const int32_t *narrow = ends->buf;
    const int64_t *far = ends->buf;
    int64_t row, start = wide ? far[0] : narrow[0], stop;
    for (row = 0; row < rows; row++, start = stop) {
        int64_t value = 0;
        int16_t decimals = 0;
        int found;
        stop = wide ? far[row + 1] : narrow[row + 1];
        if (start < 0 || stop < start || stop > data->len)
            return 0;
        told->row = row;
        found = tell((const uint8_t *)data->buf + start, stop - start, told, &value, &decimals);
        count(found, value, decimals, told->summary);
        states[row] = put_down[found];
        values[row] = found == NUMBER || found == DATE || found == WRITTEN ? value : 0;
        places[row] = found == LONG ? LONG_MARK : found == NUMBER || found == WRITTEN ? decimals : 0;
    }
    return 1;
}

PyDoc_STRVAR(tell_doc,
             "tell(data, ends, mark, order, states, values, places, summary, offsets)\n--\n\n"
             "Tell the cells of Arrow strings apart, into buffers of uint8, int64, int16, int64 "
             "and uint8.");

static PyObject *tell_cells(PyObject *module, PyObject *args)
{
    Py_buffer data, ends, states, values, places, summary, offsets;
    Py_ssize_t rows;
    int mark, order, wide, sound;
    (void)module;
    if (!PyArg_ParseTuple(args, "y*y*iiw*w*w*w*w*", &data, &ends, &mark, &order, &states, &values,
                          &places, &summary, &offsets))
        return NULL;
    rows = states.len;
    sound = are_ends(&ends, rows, &wide) &&
            values.len == rows * (Py_ssize_t)sizeof(int64_t) &&
            places.len == rows * (Py_ssize_t)sizeof(int16_t) &&
            summary.len == HELD * (Py_ssize_t)sizeof(int64_t) && offsets.len == OFFSETS;
    if (sound) {
        Told told = {(uint8_t)mark, order, summary.buf, offsets.buf, 0};
        memset(summary.buf, 0, (size_t)summary.len);
        memset(offsets.buf, 0, (size_t)offsets.len);
        told.summary[CUT] = told.summary[FIRST] = -1;
        told.summary[LEAST] = MOST_DECIMALS;
        told.summary[MOST] = -FAR;
        Py_BEGIN_ALLOW_THREADS
        sound = tell_all(&data, &ends, wide, rows, &told, states.buf, values.buf, places.buf);
        Py_END_ALLOW_THREADS
    }
    return ended((Py_buffer *[]){&data, &ends, &states, &values, &places, &summary, &offsets}, 7, sound);
}

PyDoc_STRVAR(liken_doc,
             "liken(data, ends, what, pairs, names, found)\n--\n\n"
             "Tell, into a buffer of uint8, which Arrow strings may look like a number, a date or a "
             "time.");

PyDoc_STRVAR(near_doc,
             "near(data, ends, far, rows, mark, values, whole, places, done)\n--\n\n"
             "Tell the nearest doubles of numbers in some rows of Arrow strings, and of long ones "
             "the decimals\nthat give them back, into buffers of float64, int64, int16 and uint8; "
             "`far` is whether ends\nhave 64 bits.");

PyDoc_STRVAR(see_doc, "see(data, seen)\n--\n\nMark, in a buffer of uint8, which letters of Unicode "
                      "stand in UTF-8.");

PyDoc_STRVAR(match_doc,
             "match(data, ends, wanted, wanted_ends, how, slots, found, there)\n--\n\n"
             "Tell, into buffers of uint8, which Arrow strings are among others (1) and which of "
             "these there are.\nThe first are taken as they stand (how: 0), with small letters for "
             "capital ones of ASCII (1), or so\nwith those beyond ASCII told (2) and not looked for "
             "(2). `slots` is room of int32, a power of two\nand more than what is wanted.");

PyDoc_STRVAR(hold_doc, "hold(data, part)\n--\n\nTell whether bytes are among others.");

PyDoc_STRVAR(case_doc, "case(data)\n--\n\nTell whether letters are small ones of ASCII (0), "
                       "with capitals (1), or beyond ASCII (2).");

static PyMethodDef methods[] = {{"tell", tell_cells, METH_VARARGS, tell_doc},
                                {"liken", liken_cells, METH_VARARGS, liken_doc},
                                {"near", near_cells, METH_VARARGS, near_doc},
                                {"see", see_letters, METH_VARARGS, see_doc},
                                {"match", match_texts, METH_VARARGS, match_doc},
                                {"hold", hold_part, METH_VARARGS, hold_doc},
                                {"case", case_of_letters, METH_VARARGS, case_doc},
                                {NULL}};

static struct PyModuleDef definition = {
    PyModuleDef_HEAD_INIT, "_cells", NULL, -1, methods, NULL, NULL, NULL, NULL,
};

PyMODINIT_FUNC PyInit__cells(void)
{
    const char *letters = "abcdfgijklmnopqrsuvwxy", *plain = "0123456789.+-", *at;
    for (at = letters; *at; at++)
        marks[(uint8_t)*at] = marks[(uint8_t)(*at - 0x20)] = IS_LETTER;
    for (at = plain; *at; at++)
        marks[(uint8_t)*at] = IS_PLAIN | (is_digit((uint8_t)*at) ? IS_DIGIT : 0);
    marks['e'] = marks['E'] = IS_POWER;
    return PyModule_Create(&definition);
}
