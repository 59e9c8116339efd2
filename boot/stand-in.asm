; The stand-in boot manager of practice disks: checks what boot code promises a boot manager, says so, and stays.
;
; Memory map
;   2000:0000 up    this file, whole: this code, then a program file as filling
;   0000:7C00       the boot sector that loaded it
;   0000:0500-0503  variables, outside this file, whose bytes are summed up
;   0000:0600-07FF  the boot sector as read again from the disk
;   0000:7C00 down  stack, as it was found
; Called by  a boot sector, at 2000:0000, with the drive in DL.
; Calls      nobody. It ends with a line on the screen and on the first serial port:
;            "STAND-IN REACHED drive 80 serial 0123456789ABCDEF", or "STAND-IN REACHED, BUT " and what is wrong.
; Survives   nothing.
; The length of the file and the sum of its words of 4 bytes, this field left out, are filled in when the file is made.

        bits 16
        cpu 386
        org 0

BOOT_SECTOR     equ 0x7C00
COPY            equ 0x0600
SERIAL_PORT     equ 0x3F8
drive           equ 0x0500              ; byte
serial_bytes    equ 0x0501              ; byte
serial          equ 0x0502              ; word: where it stands

        jmp near start
        nop
        db "KEELSTND"
length  dd 0
sum     dd 0

start:
        cld
        mov ax, cs
        mov ds, ax
        xor ax, ax
        mov es, ax
        mov [es:drive], dl
        mov byte [es:serial_bytes], 8
        mov word [es:serial], BOOT_SECTOR + 0x48
        mov al, 3                       ; letters of 8 bits: not every firmware sets the port up
        mov dx, SERIAL_PORT + 3
        out dx, al
        mov si, line_reached
        call print

        mov ax, cs
        cmp ax, 0x2000
        mov si, line_address
        jne wrong
        call here
here:
        pop ax
        cmp ax, here
        mov si, line_address
        jne wrong

        mov si, line_sector
        cmp word [es:BOOT_SECTOR + 0x1FE], 0xAA55
        jne wrong
        cmp dword [es:BOOT_SECTOR + 3], "NTFS"
        je .ntfs
        mov byte [es:serial_bytes], 4
        mov word [es:serial], BOOT_SECTOR + 0x43
        cmp dword [es:BOOT_SECTOR + 0x52], "FAT3"
        je .ntfs
        mov word [es:serial], BOOT_SECTOR + 0x27
        cmp dword [es:BOOT_SECTOR + 0x36], "FAT1"
        jne wrong
.ntfs:
        call check_hidden
        call check_sum

        mov si, line_drive
        call print
        mov al, [es:drive]
        call print_byte
        mov si, line_serial
        call print
        mov bx, [es:serial]
        movzx cx, byte [es:serial_bytes]
        add bx, cx
.digit:
        dec bx
        mov al, [es:bx]
        call print_byte
        loop .digit
        mov si, line_end
        call print
stay:
        hlt
        jmp stay

wrong:
        push si
        mov si, line_but
        call print
        pop si
        call print
        mov si, line_end
        call print
        jmp stay

; The hidden sectors and the drive are right when they lead back to the boot sector.
check_hidden:
        push dword 0
        push dword [es:BOOT_SECTOR + 0x1C]
        push word 0
        push word COPY
        push word 1
        push word 16
        push ds
        mov si, sp
        add si, 2
        push ss
        pop ds
        mov dl, [es:drive]
        mov ah, 0x42
        int 0x13
        pop ds
        lea sp, [esp + 16]
        mov si, line_hidden
        jc wrong
        push ds
        push es
        pop ds
        mov si, BOOT_SECTOR
        mov di, COPY
        mov cx, 0x54 / 2                ; the parameters; boot code keeps variables behind them
        repe cmpsw
        pop ds
        mov si, line_hidden
        jne wrong
        ret

; Every byte of the file arrived: the sum over its words of 4 bytes.
check_sum:
        push ds
        mov ecx, [length]
        mov ebp, [sum]
        shr ecx, 2
        neg ebp                         ; the field itself is in the sum
        xor edx, edx
        mov ebx, 0x20000
.word:
        mov eax, ebx
        shr eax, 4
        mov ds, ax
        mov si, bx
        and si, 15
        mov eax, [si]
        add edx, eax
        add ebx, 4
        dec ecx
        jnz .word
        pop ds
        add edx, ebp
        mov si, line_sum
        cmp edx, [sum]
        jne wrong
        ret

print_byte:
        push ax
        shr al, 4
        call print_digit
        pop ax
        and al, 15
print_digit:
        and al, 15
        add al, "0"
        cmp al, "9"
        jbe print_letter
        add al, 7

; Prints AL on the screen and on the serial port.
print_letter:
        pushad
        mov ah, 0x0E
        mov bx, 7
        int 0x10
        popad
        pushad
        mov ah, al
        mov dx, SERIAL_PORT + 5
        mov cx, 0xFFFF
.wait:
        in al, dx
        test al, 0x20
        jnz .ready
        loop .wait
.ready:
        mov al, ah
        mov dx, SERIAL_PORT
        out dx, al
        popad
        ret

print:
        lodsb
        test al, al
        jz .end
        call print_letter
        jmp print
.end:
        ret

line_reached    db 13, 10, "STAND-IN REACHED", 0
line_but        db ", BUT ", 0
line_address    db "NOT AT 2000:0000", 0
line_sector     db "THE BOOT SECTOR IS NOT IN PLACE", 0
line_hidden     db "HIDDEN SECTORS OR DRIVE ARE WRONG", 0
line_sum        db "NOT EVERY BYTE OF IT ARRIVED", 0
line_drive      db " drive ", 0
line_serial     db " serial ", 0
line_end        db 13, 10, 0

        times 1024 - ($ - $$) db 0
