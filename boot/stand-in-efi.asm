; The stand-in boot manager of practice disks for UEFI: says how it was reached, and stays.
;
; It is the first part of the code section of an EFI program (x86-64, PE32+), entered at its first byte; the headers
; around it, and the filling behind it, are made when the file is.
;
; Called by  UEFI firmware: image handle in RCX, system table in RDX (UEFI specification, "Calling Conventions", x64).
; Calls      the firmware: HandleProtocol, OutputString. It ends with a line on the screen and on the first serial port:
;            "STAND-IN REACHED uefi" and the path that it was loaded from, then "options" and their length in hexadecimal,
;            or "STAND-IN REACHED, BUT not every byte of it arrived".
; Survives   nothing: it does not return.
; The length of the code section and the sum of its words of 4 bytes, this field left out, are filled in when the file is made.

        bits 64
        default rel

SERIAL_PORT     equ 0x3F8
CON_OUT         equ 0x40                ; in the system table
BOOT_SERVICES   equ 0x60
OUTPUT_STRING   equ 0x08                ; in the text output protocol
HANDLE_PROTOCOL equ 0x98                ; in the boot services
FILE_PATH       equ 0x20                ; in the loaded image protocol
OPTIONS_SIZE    equ 0x30
FILE_PATH_NODE  equ 0x0404              ; a device path node: type 4, subtype 4

top:
        jmp near start
        times 12 - ($ - top) nop        ; length and sum stand where they do for BIOS too: at 12 and 16
length  dd 0
sum     dd 0

start:
        sub rsp, 0x48                   ; shadow space, locals at 30 and 38, and RSP at a multiple of 16
        mov rbx, rdx
        mov r15, rcx
        xor eax, eax
        lea rsi, [top]
        mov ecx, [length]
        shr ecx, 2
.add:
        add eax, [rsi]
        add rsi, 4
        dec ecx
        jnz .add
        sub eax, [sum]
        cmp eax, [sum]
        setne r14b
        xor r13d, r13d                  ; 0: to the screen; 1: to the serial port, where some firmware shows its screen too
.again:
        lea rsi, [damaged]
        test r14b, r14b
        jnz .last
        lea rsi, [reached]
        call print
        mov rcx, r15
        lea rdx, [loaded_image]
        lea r8, [rsp + 0x30]
        mov rax, [rbx + BOOT_SERVICES]
        call [rax + HANDLE_PROTOCOL]
        test rax, rax
        lea rsi, [ending]
        jnz .last
        mov r12, [rsp + 0x30]
        mov rsi, [r12 + FILE_PATH]
        test rsi, rsi
        jz .options
        cmp word [rsi], FILE_PATH_NODE
        jne .options
        add rsi, 4
        call print
.options:
        lea rsi, [options]
        call print
        mov eax, [r12 + OPTIONS_SIZE]
        mov word [rsp + 0x40], 0
        lea rdi, [rsp + 0x3E]
        mov ecx, 4
.digit:
        mov edx, eax
        and edx, 15
        add dl, '0'
        cmp dl, '9'
        jbe .store
        add dl, 'A' - '0' - 10
.store:
        movzx dx, dl
        mov [rdi], dx
        sub rdi, 2
        shr eax, 4
        dec ecx
        jnz .digit
        lea rsi, [rsp + 0x38]
        call print
        lea rsi, [ending]
.last:
        call print
        inc r13d
        cmp r13d, 2
        jb .again
.stay:
        pause
        jmp .stay

; Prints the text at RSI (UTF-16, ended by a zero) on the screen or the serial port, as R13 says. Uses RAX, RCX, RDX, R8 to R11.
print:
        test r13d, r13d
        jnz .letter
        sub rsp, 0x28
        mov rcx, [rbx + CON_OUT]
        mov rdx, rsi
        call [rcx + OUTPUT_STRING]
        add rsp, 0x28
        ret
.letter:
        lodsw
        test ax, ax
        jz .done
        mov r8d, eax
        mov dx, SERIAL_PORT + 5
        mov ecx, 0x10000
.wait:
        in al, dx
        test al, 0x20
        jnz .send
        dec ecx
        jnz .wait
.send:
        mov eax, r8d
        mov dx, SERIAL_PORT
        out dx, al
        jmp .letter
.done:
        ret

        align 8
loaded_image:                           ; 5B1B31A1-9562-11D2-8E3F-00A0C969723B
        dd 0x5B1B31A1
        dw 0x9562, 0x11D2
        db 0x8E, 0x3F, 0x00, 0xA0, 0xC9, 0x69, 0x72, 0x3B
reached db __utf16le__(`STAND-IN REACHED uefi `), 0, 0
options db __utf16le__(`, options `), 0, 0
ending  db __utf16le__(`\r\n`), 0, 0
damaged db __utf16le__(`STAND-IN REACHED, BUT not every byte of it arrived\r\n`), 0, 0

        times 1024 - ($ - top) db 0
