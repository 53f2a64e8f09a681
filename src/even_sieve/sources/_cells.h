/* What the passes over the bytes of Arrow strings have in common. */

#define Py_LIMITED_API 0x030B0000
#define PY_SSIZE_T_CLEAN
#include <Python.h>
#include <stdint.h>
#include <string.h>

/* What stands for the decimals of a number of more digits than 64 bits hold. */
enum { LONG_MARK = INT16_MAX };

static inline int is_digit(uint8_t letter) { return letter >= '0' && letter <= '9'; }

static inline int is_letter(uint8_t letter)
{
    letter |= 0x20;
    return letter >= 'a' && letter <= 'z';
}

/* Whether a buffer has room for the ends of so many strings; of 64 bits where it is wide. */
static inline int are_ends(const Py_buffer *ends, Py_ssize_t rows, int *wide)
{
    *wide = ends->len == (rows + 1) * (Py_ssize_t)sizeof(int64_t);
    return *wide || ends->len == (rows + 1) * (Py_ssize_t)sizeof(int32_t);
}

/* Let buffers go; return None, or the error where they do not belong together. */
static inline PyObject *ended(Py_buffer **buffers, int count, int sound)
{
    for (; count; count--)
        PyBuffer_Release(*buffers++);
    if (sound)
        Py_RETURN_NONE;
    PyErr_SetString(PyExc_ValueError, "these are not the buffers of one array of strings");
    return NULL;
}

PyObject *liken_cells(PyObject *module, PyObject *args);
PyObject *near_cells(PyObject *module, PyObject *args);
PyObject *see_letters(PyObject *module, PyObject *args);
PyObject *match_texts(PyObject *module, PyObject *args);
PyObject *hold_part(PyObject *module, PyObject *args);
PyObject *case_of_letters(PyObject *module, PyObject *args);
